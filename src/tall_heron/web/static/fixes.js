// What clears a finding, asked for once the page stands and of those that are open alone; a later change overtakes an earlier question.
import { ask, base, change, page } from "./server.js";

const PAUSE = 600; // ms after a change before they are asked for
let wanted = 0;

function open(place) {
  const folded = place.closest("details.folded");
  return !folded || folded.open;
}

export async function freshFixes() {
  const asked = ++wanted;
  await new Promise((done) => setTimeout(done, PAUSE));
  while (asked === wanted) {
    if (document.querySelector("#swaps[aria-busy]")) {
      await new Promise((done) => setTimeout(done, 100)); // what the eye is on comes first
      continue;
    }
    const place = [...document.querySelectorAll(".fix[data-fix]:not([data-told])")].find(open); // one at a time: a change that somebody makes meanwhile waits for no more
    if (!place || !page().slug) return;
    const answer = await ask(`${base()}/fixes?${new URLSearchParams({ key: place.dataset.fix })}`);
    if (asked !== wanted || !answer.ok) return;
    if (answer.fixes[place.dataset.fix]) place.innerHTML = answer.fixes[place.dataset.fix];
    place.dataset.told = "yes";
  }
}

export async function fixIt(event) {
  const answer = await change(`${base()}/fix`, { key: event.currentTarget.dataset.fix });
  if (answer.ok) document.getElementById("announce").textContent = "Fixed";
}

export function watchFixes() {
  window.addEventListener("put", freshFixes);
  document.addEventListener(
    "toggle",
    (event) => event.target.matches("details.folded") && event.target.open && freshFixes(),
    true,
  );
  freshFixes();
}
