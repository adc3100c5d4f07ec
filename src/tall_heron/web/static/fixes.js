// What clears a finding, asked for once the page stands and of those that are open alone; a later change overtakes an earlier question.
import { ask, base, change, page } from "./server.js";

const MOST = 1; // findings in one question: a change that somebody makes meanwhile waits for no more than one
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
    const places = [...document.querySelectorAll(".fix[data-fix]:not([data-told])")].filter(open).slice(0, MOST);
    if (!places.length || !page().slug) return;
    const query = new URLSearchParams(places.map((place) => ["key", place.dataset.fix]));
    const answer = await ask(`${base()}/fixes?${query}`);
    if (asked !== wanted || !answer.ok) return;
    for (const place of places) {
      if (answer.fixes[place.dataset.fix]) place.innerHTML = answer.fixes[place.dataset.fix];
      place.dataset.told = "yes";
    }
  }
}

export async function fixIt(event) {
  const answer = await change(`${base()}/fix`, { key: event.currentTarget.dataset.fix });
  if (answer.ok) document.getElementById("announce").textContent = "Fixed";
}

export function watchFixes() {
  window.addEventListener("put", freshFixes);
  document.addEventListener("toggle", (event) => event.target.matches("details.folded") && event.target.open && freshFixes(), true);
  freshFixes();
}
