// Whoever looks is told when somebody else has changed the build: what is shown follows at once, unless something is being typed or held; then a button brings it.
import { ask, base, lineButton, page, quiet, send, trouble } from "./server.js";

const EVERY = 1500; // ms between looks
let typed = null; // the field that somebody types in
let held = false;

const told = () => document.getElementById("changed-elsewhere");

function say(text, show) {
  const box = told();
  box.hidden = !text;
  box.textContent = text;
  if (show) box.append(lineButton("Show it", follow));
}

async function follow() {
  typed = null;
  const answer = await send(location.pathname + location.search, null);
  if (!answer.ok) trouble(answer.message);
  else if (!answer.pieces) location.reload();
}

async function look() {
  if (document.hidden || !quiet()) return;
  const answer = await ask(`${base()}/head`);
  if (!answer.ok || !answer.head || !quiet() || answer.head === Number(page().head)) return;
  if ((typed && typed.isConnected) || held) return say(`Changed elsewhere: ${answer.act}.`, true);
  await follow();
  say(`Changed elsewhere just now: ${answer.act}. It is shown.`, false);
}

export function watch() {
  if (!page().slug || !page().head || !told()) return;
  document.addEventListener("input", (event) => (typed = event.target));
  window.addEventListener("kept", () => {
    typed = null;
    say("", false);
  });
  document.addEventListener("pointerdown", () => (held = true));
  for (const name of ["pointerup", "pointercancel"])
    document.addEventListener(name, () => (held = false));
  setInterval(look, EVERY);
}
