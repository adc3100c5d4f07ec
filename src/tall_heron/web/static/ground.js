// What is clicked on a view of the vehicle: a picture of one's own car scaled by two clicks and a dimension and set on the ground by a third; a zone drawn between two corners.
import { base, raw, trouble } from "./server.js";
import { views } from "./view.js";

const WANTED = { side: 3, rear: 3, plan: 2 };
const ENDS = [
  "Click one end of what you know.",
  "Now its other end.",
  "Now a place on the ground, under a wheel.",
];
const CORNERS = ["Click one corner of it.", "Now the corner opposite."];
let picking = null; // the act, its view, what it is sent with, where it is told, and the places clicked so far
let taken = false; // whether the press that goes on was one of them: then its click is nothing else

export function grounds(root, send) {
  root.addEventListener(
    "change",
    (event) => event.target.id === "ground-file" && put(event.target, send),
  );
  root.addEventListener("submit", (event) => {
    const form = event.target.closest("form[data-ground], form[data-drawzone]");
    if (!form) return;
    event.preventDefault();
    begin(form);
  });
  root.addEventListener("click", (event) => {
    const off = event.target.closest("button[data-unground]");
    const turn = event.target.closest("button[data-groundturn]");
    if (off) send("unground", { view: off.dataset.unground });
    if (turn) send("turn_ground", { view: turn.dataset.view, how: turn.dataset.groundturn });
  });
  // Before the drawing takes a press for a drag.
  root.addEventListener("pointerdown", (event) => pick(event, send), true);
  root.addEventListener(
    "click",
    (event) => {
      if (!taken) return;
      taken = false;
      event.preventDefault();
      event.stopPropagation();
    },
    true,
  );
  root.addEventListener("keydown", (event) => event.key === "Escape" && picking && stop(""), true);
}

async function put(input, send) {
  const file = input.files[0];
  if (!file) return;
  const answer = await raw(
    `${base()}/route/picture?page=${encodeURIComponent(document.getElementById("ground-page").value)}`,
    file,
  );
  if (!answer.sha256) return trouble(answer.message);
  await send("ground", {
    view: document.getElementById("ground-view").value,
    sha256: answer.sha256,
  });
}

function begin(form) {
  const of = (name) => form.elements[name].value;
  picking = form.dataset.ground
    ? {
        act: "scale",
        view: form.dataset.ground,
        sent: { text: of("text") },
        words: ENDS.slice(0, WANTED[form.dataset.ground]),
        at: "ground-says",
        points: [],
      }
    : {
        act: "zone_drawn",
        view: of("view"),
        sent: { usual: of("usual"), name: of("name") },
        words: CORNERS,
        at: "zone-says",
        points: [],
      };
  const svg = document.getElementById(`view-${picking.view}`);
  if (!svg)
    return stop(
      `Show the view from ${{ side: "the side", plan: "above", rear: "behind" }[picking.view]} first.`,
    );
  svg.classList.add("picking");
  svg.scrollIntoView({ block: "nearest", behavior: "instant" });
  tell();
}

function tell() {
  document.getElementById(picking.at).textContent = picking.words[picking.points.length] || "";
}

function stop(words) {
  const says = document.getElementById(picking.at);
  picking = null;
  document.querySelectorAll("svg.picking").forEach((svg) => svg.classList.remove("picking"));
  if (says) says.textContent = words;
}

function pick(event, send) {
  const svg = picking && event.target.closest("svg.vehicle");
  if (!svg || svg.dataset.view !== picking.view) return;
  event.preventDefault();
  event.stopPropagation();
  taken = true;
  picking.points.push(
    views()
      .find((v) => v.svg === svg)
      .mm(event),
  );
  if (picking.points.length < picking.words.length) return tell();
  const { act, view, sent, points } = picking;
  stop("");
  send(act, { view, points, ...sent });
}
