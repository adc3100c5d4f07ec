// Talking with the server: changes go out one at a time, the pieces that changed come back and are put in place; focus stays where it was.
import { afterwards } from "./after.js";

export const page = () => document.body.dataset;

const marks = new Map(); // what each piece of the page was when it was put, so that it is not sent again

export function csrf() {
  return document.querySelector('meta[name="csrf"]').content;
}

export function fuelsOpen() {
  const box = document.getElementById("fuels-box");
  return Boolean(box && box.open);
}

export async function ask(path, data) {
  const options = {
    headers: {
      Accept: "application/json",
      "X-Have": [...marks].map((pair) => pair.join("=")).join(","),
    },
  };
  if (data) {
    const shown = page();
    options.method = "POST";
    options.headers["Content-Type"] = "application/json";
    options.headers["X-CSRFToken"] = csrf();
    options.body = JSON.stringify({
      page: shown.page,
      part: shown.part,
      case: shown.case,
      hose: shown.hose,
      walk: shown.walk,
      line: shown.line,
      view: shown.view,
      paper: shown.paper,
      rule: shown.rule,
      zoom: shown.times,
      try: shown.page === "route" ? shown.try : undefined,
      head: Number(shown.head),
      fuels: fuelsOpen(),
      have: Object.fromEntries(marks),
      ...data,
    });
  }
  return heard(path, options);
}

// What the server says to a request, and whether it was taken; in words where it says nothing.
async function heard(path, options) {
  const sent = options.method === "POST" ? 1 : 0;
  acting += sent;
  const answer = await answered(path, options);
  acting -= sent;
  return answer;
}

async function answered(path, options) {
  let response;
  try {
    response = await fetch(path, options);
  } catch {
    return {
      ok: false,
      message:
        "The application does not answer. Is it still running? What you typed is still in the field.",
    };
  }
  let answer;
  try {
    answer = await response.json();
  } catch {
    answer = {
      message: "The application gave an answer that cannot be read. Load the page again.",
    };
  }
  return { ok: response.ok, overtaken: response.status === 409 && answer.head > 0, ...answer };
}

// Send a file's bytes as they are.
export function raw(path, body) {
  return heard(path, {
    method: "POST",
    body,
    headers: {
      Accept: "application/json",
      "Content-Type": "application/octet-stream",
      "X-CSRFToken": csrf(),
    },
  });
}

// A button in a line of words.
export function lineButton(words, press) {
  const button = document.createElement("button");
  button.type = "button";
  button.className = "btn-line";
  button.textContent = words;
  button.addEventListener("click", press);
  return button;
}

export function trouble(text, again) {
  const box = document.getElementById("trouble");
  if (!box) return;
  box.textContent = text;
  box.hidden = !text;
  if (again) box.append(lineButton("Apply on top", again));
}

// The table of swaps comes after the rest: until then the one that is there stays, if it is of the same part.
function keepSwaps() {
  const old = document.getElementById("swaps");
  return () => {
    const place = document.getElementById("swaps");
    if (
      old &&
      place &&
      place !== old &&
      !place.firstElementChild &&
      old.dataset.part === place.dataset.part
    )
      place.replaceWith(old);
    else if (place !== old) marks.delete("swaps");
  };
}

// Whether a piece that came with the page is the one that comes again: then what stands there stays, and a click on it is not lost.
function same(place, html) {
  const parsed = document.createElement("template");
  parsed.innerHTML = html;
  return parsed.innerHTML === place.innerHTML;
}

export function put(answer) {
  const active = document.activeElement;
  const id = active && active.id;
  const open = document.querySelector("#show-why")
    ? document.querySelector("#show-why").open
    : false;
  const reworking = document.getElementById("rework") && document.getElementById("rework").open;
  for (const [name, html] of Object.entries(answer.pieces || {})) {
    const place = document.getElementById(name);
    if (!place || (!marks.has(name) && same(place, html))) continue;
    const swapsBack = keepSwaps();
    place.innerHTML = html;
    swapsBack();
  }
  for (const [name, mark] of Object.entries(answer.marks || {})) marks.set(name, mark);
  if (document.querySelector("#show-why")) document.querySelector("#show-why").open = open;
  if (document.getElementById("rework"))
    document.getElementById("rework").open = Boolean(reworking);
  page().head = answer.head;
  window.dispatchEvent(new Event("put"));
  const chosen = document.querySelector(".drawing.pans a.part[aria-current]");
  if (chosen) chosen.scrollIntoView({ inline: "nearest", block: "nearest" });
  if (answer.fields)
    window.dispatchEvent(
      new CustomEvent("fields", { detail: { ...answer.fields, assumed: answer.assumed || [] } }),
    );
  if (id && document.activeElement !== active) {
    const again =
      document.getElementById(id) ||
      document.getElementById("card") ||
      document.getElementById("main");
    if (again) {
      if (!again.matches("a, button, input, select, summary, [tabindex]")) again.tabIndex = -1;
      again.focus({ preventScroll: true });
    }
  }
}

// One change at a time: the next waits for the answer, so that it is made on the revision the answer brings. `data` may be a function, asked when its turn comes.
let turn = Promise.resolve();
let waiting = 0;
let acting = 0; // changes on their way
let leaving = false;
const LEAVING = 20000; // ms
export const quiet = () => waiting === 0 && acting === 0 && !leaving;

// A page that is being left for another, or anew, is not led elsewhere meanwhile; what turns out to be a file to keep leaves it standing.
window.addEventListener("beforeunload", () => {
  leaving = true;
  setTimeout(() => (leaving = false), LEAVING);
});

export function send(path, data) {
  waiting += 1;
  turn = turn.then(async () => {
    const answer = await ask(path, typeof data === "function" ? data() : data);
    if (answer.ok) {
      put(answer);
      trouble("");
      if (data) window.dispatchEvent(new Event("kept"));
    }
    waiting -= 1;
    return answer;
  });
  turn.then((answer) => answer.ok && afterwards());
  return turn;
}

// An answer that comes line by line: `hear` is told each, until `ended` says that nobody waits any more. Gives back what was refused, if it was.
export async function follow(path, data, hear, ended) {
  const options = {
    method: "POST",
    headers: {
      Accept: "application/json",
      "Content-Type": "application/json",
      "X-CSRFToken": csrf(),
    },
  };
  const response = await fetch(path, { ...options, body: JSON.stringify(data) });
  if (!response.ok) return (await response.json()).message;
  const reader = response.body.pipeThrough(new TextDecoderStream()).getReader();
  let rest = "";
  for (;;) {
    const { done, value } = await reader.read();
    if (ended()) return void reader.cancel();
    if (done) return "";
    const lines = (rest + value).split("\n");
    rest = lines.pop();
    for (const line of lines) hear(JSON.parse(line));
  }
}

export async function change(path, data) {
  const answer = await send(path, data);
  if (!answer.ok) {
    const again = () => {
      page().head = answer.head;
      change(path, data);
    };
    trouble(
      answer.message || "That was not done.",
      answer.overtaken && !path.endsWith("/undo") ? again : null,
    );
  }
  return answer;
}

export function base() {
  return `/builds/${page().slug}`;
}

export async function look(changes) {
  const shown = page();
  Object.assign(shown, changes);
  const query =
    shown.page === "route"
      ? new URLSearchParams({
          ...(shown.line ? { line: shown.line } : {}),
          ...(shown.part ? { part: shown.part } : {}),
          view: shown.view || "both",
          zoom: shown.times || "1",
          ...(shown.try ? { try: shown.try } : {}),
        })
      : shown.page === "hoses"
        ? new URLSearchParams({ hose: shown.hose })
        : shown.page === "prove"
          ? new URLSearchParams({ part: shown.part })
          : new URLSearchParams({
              part: shown.part,
              case: shown.case,
              ...(shown.try ? { try: shown.try } : {}),
              ...(shown.walk ? { walk: shown.walk } : {}),
            });
  const path = `${base()}/${shown.page}?${query}`;
  const answer = await send(path, null);
  if (answer.ok) history.replaceState(null, "", path);
  else trouble(answer.message);
}
