// A picture of one's own vehicle under a view: sent, then scaled by two clicks and a dimension, and set on the ground by a third.
import { base, raw, trouble } from "./server.js";
import { views } from "./view.js";

const WANTED = { side: 3, rear: 3, plan: 2 };
let picking = null; // the view, what it is sent with, and the places clicked so far
let taken = false; // whether the press that goes on was one of them: then its click is nothing else

export function grounds(root, send) {
  root.addEventListener("change", (event) => event.target.id === "ground-file" && put(event.target, send));
  root.addEventListener("submit", (event) => {
    const form = event.target.closest("form[data-ground]");
    if (!form) return;
    event.preventDefault();
    begin(form);
  });
  root.addEventListener("click", (event) => {
    const off = event.target.closest("button[data-unground]");
    if (off) send("unground", { view: off.dataset.unground });
  });
  // Before the drawing takes a press for a drag.
  root.addEventListener("pointerdown", (event) => pick(event, send), true);
  root.addEventListener("click", (event) => {
    if (!taken) return;
    taken = false;
    event.preventDefault();
    event.stopPropagation();
  }, true);
  root.addEventListener("keydown", (event) => event.key === "Escape" && picking && stop(""), true);
}

async function put(input, send) {
  const file = input.files[0];
  if (!file) return;
  const answer = await raw(`${base()}/route/picture`, file);
  if (!answer.sha256) return trouble(answer.message);
  await send("ground", { view: document.getElementById("ground-view").value, sha256: answer.sha256 });
}

function begin(form) {
  picking = { view: form.dataset.ground, text: form.elements.text.value, points: [] };
  const svg = document.getElementById(`view-${picking.view}`);
  if (!svg) return stop(`Show the ${picking.view} view first.`);
  svg.classList.add("picking");
  svg.scrollIntoView({ block: "nearest", behavior: "instant" });
  tell();
}

function tell() {
  const words = ["Click one end of what you know.", "Now its other end.", "Now a place on the ground, under a wheel."];
  document.getElementById("ground-says").textContent = words[picking.points.length] || "";
}

function stop(words) {
  picking = null;
  document.querySelectorAll("svg.picking").forEach((svg) => svg.classList.remove("picking"));
  const says = document.getElementById("ground-says");
  if (says) says.textContent = words;
}

function pick(event, send) {
  const svg = picking && event.target.closest("svg.vehicle");
  if (!svg || svg.dataset.view !== picking.view) return;
  event.preventDefault();
  event.stopPropagation();
  taken = true;
  picking.points.push(views().find((v) => v.svg === svg).mm(event));
  if (picking.points.length < WANTED[picking.view]) return tell();
  const { view, text, points } = picking;
  stop("");
  send("scale", { view, text, points });
}
