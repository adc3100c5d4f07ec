// What takes many solutions is asked for once the page stands: the swaps on the screen, the ladder, the marks of the other stations.
import { ask, base, page, put, quiet } from "./server.js";

let wanted = 0;
let every = ""; // the part of which all the shelf has is shown
const PAUSE = 200; // ms after a change before its swaps are asked for: who types on does not wait for sums of what is past
// What the shelf would do in the chosen part's place, asked for once the drawing stands, and after it the ladder; a later change overtakes an earlier question.
export async function freshSwaps(whole) {
  const place = document.getElementById("swaps");
  if (!place || !["circuit", "hoses"].includes(page().page)) return;
  const asked = ++wanted;
  const { part } = place.dataset;
  if (whole) every = part;
  await new Promise((done) => setTimeout(done, whole ? 0 : PAUSE));
  if (asked !== wanted) return;
  const query = new URLSearchParams({
    part,
    case: page().case || "",
    try: page().try || "",
    page: page().page,
    ...(every === part ? { every: "1" } : {}),
  });
  place.setAttribute("aria-busy", "true");
  const answer = await ask(`${base()}/swaps?${query}`);
  if (asked !== wanted) return;
  place.removeAttribute("aria-busy");
  if (answer.ok) put({ ...answer, head: page().head }); // of a later revision where another page has made one: what is pressed here brings that to this page
  if (!document.getElementById("ladder") || whole) return;
  const ladder = await ask(`${base()}/ladder?${query}`);
  if (ladder.ok && asked === wanted) put({ ...ladder, head: page().head });
}

let marking = 0;
// The marks of the other stations, asked for last, where those shown are of before a change.
export async function freshMarks() {
  if (!document.querySelector(".run[data-old]")) return;
  const asked = ++marking;
  await new Promise((done) => setTimeout(done, PAUSE));
  if (asked !== marking || !quiet()) return;
  const query = new URLSearchParams({ page: page().page, here: location.pathname });
  const answer = await ask(`${base()}/marks?${query}`);
  if (answer.ok && answer.head === Number(page().head)) put(answer);
}

// What is asked for after a change, the nearest to the eye first.
export async function afterwards() {
  await freshSwaps(false);
  await freshMarks();
}

// The builds on the bench that nobody has worked out yet, one after the other from the top.
export async function freshPlaces() {
  const away = new URLSearchParams(location.search).get("away") === "yes" ? "yes" : "no";
  for (const place of document.querySelectorAll("[data-waits]")) {
    const first = place.classList.contains("first") ? "yes" : "no";
    const answer = await ask(`/builds/${place.dataset.waits}/place?first=${first}&away=${away}`);
    if (answer.ok) {
      const focused = place.contains(document.activeElement);
      const made = document.createRange().createContextualFragment(answer.place).firstElementChild;
      place.replaceWith(made);
      document.getElementById("bench-counts").innerHTML = answer.counts;
      if (focused) made.querySelector("a").focus();
    } else place.querySelector("[role=status]").textContent = answer.message || "It is not known.";
  }
}
