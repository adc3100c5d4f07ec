// The page: changes go to the server, the changed pieces come back and are put in place; focus stays where it was.
const page = () => document.body.dataset;

function csrf() {
  return document.querySelector('meta[name="csrf"]').content;
}

function fuelsOpen() {
  const box = document.getElementById("fuels-box");
  return Boolean(box && box.open);
}

async function ask(path, data) {
  const options = { headers: { Accept: "application/json" } };
  if (data) {
    const shown = page();
    options.method = "POST";
    options.headers["Content-Type"] = "application/json";
    options.headers["X-CSRFToken"] = csrf();
    options.body = JSON.stringify({ page: shown.page, part: shown.part, case: shown.case, hose: shown.hose, walk: shown.walk, head: Number(shown.head), fuels: fuelsOpen(), ...data });
  }
  let response;
  try {
    response = await fetch(path, options);
  } catch {
    return { ok: false, message: "The application does not answer. Is it still running? What you typed is still in the field." };
  }
  let answer = {};
  try {
    answer = await response.json();
  } catch {
    answer = { message: "The application gave an answer that cannot be read. Load the page again." };
  }
  return { ok: response.ok, overtaken: response.status === 409 && answer.head > 0, ...answer };
}

function trouble(text, again) {
  const box = document.getElementById("trouble");
  if (!box) return;
  box.textContent = text;
  box.hidden = !text;
  if (again) {
    const button = document.createElement("button");
    button.type = "button";
    button.className = "btn-line";
    button.textContent = "Apply on top";
    button.addEventListener("click", again);
    box.append(button);
  }
}

const WHEEL = 60; // px a wheel or two fingers move for one step of size
// The drawing at a multiple of its size; a larger one pans in its frame.
function zoomed() {
  const svg = document.getElementById("drawing-svg");
  if (!svg || !svg.viewBox) return;
  const times = Number(page().zoom || 1);
  svg.dataset.wide ??= String(svg.classList.contains("pans"));
  svg.classList.toggle("pans", times > 1 || svg.dataset.wide === "true");
  svg.classList.toggle("zoomed", times > 1);
  svg.setAttribute("width", Math.round(svg.viewBox.baseVal.width * times));
  svg.setAttribute("height", Math.round(svg.viewBox.baseVal.height * times));
}

function put(answer) {
  const active = document.activeElement;
  const id = active && active.id;
  const open = document.querySelector("#show-why") ? document.querySelector("#show-why").open : true;
  const reworking = document.getElementById("rework") && document.getElementById("rework").open;
  for (const [name, html] of Object.entries(answer.pieces || {})) {
    const place = document.getElementById(name);
    if (place) place.innerHTML = html;
  }
  if (document.querySelector("#show-why")) document.querySelector("#show-why").open = open;
  if (document.getElementById("rework")) document.getElementById("rework").open = Boolean(reworking);
  page().head = answer.head;
  if (page().zoom) zoomed();
  const chosen = document.querySelector(".drawing.pans a.part[aria-current]");
  if (chosen) chosen.scrollIntoView({ inline: "nearest", block: "nearest" });
  if (answer.fields) window.dispatchEvent(new CustomEvent("fields", { detail: answer.fields }));
  if (id && document.activeElement !== active) {
    const again = document.getElementById(id) || document.getElementById("card") || document.getElementById("main");
    if (again) {
      if (!again.matches("a, button, input, select, summary, [tabindex]")) again.tabIndex = -1;
      again.focus({ preventScroll: true });
    }
  }
  trouble("");
}

// One change at a time: the next waits for the answer, so that it is made on the revision the answer brings.
let turn = Promise.resolve();
function send(path, data) {
  turn = turn.then(async () => {
    const answer = await ask(path, data);
    if (answer.ok) put(answer);
    return answer;
  });
  return turn;
}

async function change(path, data) {
  const answer = await send(path, data);
  if (!answer.ok) {
    const again = () => {
      page().head = answer.head;
      change(path, data);
    };
    trouble(answer.message || "That was not done.", answer.overtaken && !path.endsWith("/undo") ? again : null);
  }
  return answer;
}

function base() {
  return `/builds/${page().slug}`;
}

async function look(changes) {
  const shown = page();
  Object.assign(shown, changes);
  const query = shown.page === "hoses" ? new URLSearchParams({ hose: shown.hose }) : new URLSearchParams({ part: shown.part, case: shown.case, ...(shown.try ? { try: shown.try } : {}), ...(shown.walk ? { walk: shown.walk } : {}) });
  const path = `${base()}/${shown.page}?${query}`;
  const answer = await send(path, null);
  if (answer.ok) history.replaceState(null, "", path);
  else trouble(answer.message);
}

function fieldParts(save, always) {
  return {
    text: "",
    kept: "",
    sent: null,
    reads: "",
    message: "",
    invalid: "false",
    stale: 0,
    init() {
      this.text = this.kept = this.$root.dataset.text;
      this.preview();
    },
    async preview() {
      const { quantity, unit, shown } = this.$root.dataset;
      if (!quantity) return;
      const asked = this.text;
      if (!asked.trim() || asked.trim().endsWith(` ${shown}`)) {
        this.reads = "";
        return;
      }
      const answer = await ask(`/convert?${new URLSearchParams({ text: asked, quantity, unit, shown })}`);
      if (asked === this.text) this.reads = answer.ok && answer.shown ? `= ${answer.shown}` : "";
    },
    async commit(event) {
      // Enter sends, and leaving the field sends what Enter has not sent already.
      if (event.type === "change" && this.text === this.sent) return;
      if (this.text === this.kept && !always) {
        this.message = "";
        this.invalid = "false";
        return;
      }
      const sent = (this.sent = this.text);
      this.stale = 0;
      const answer = await save(this, sent);
      if (answer.overtaken) this.stale = answer.head;
      if (answer.ok) {
        this.message = "";
        this.invalid = "false";
        if (this.text === sent) this.kept = sent;
      } else {
        this.message = answer.message || "That was not kept.";
        this.invalid = "true";
      }
    },
    onTop(event) {
      page().head = this.stale;
      this.commit(event);
    },
    refresh(event) {
      const now = event.detail[this.$root.dataset.field];
      if (now === undefined || this.invalid === "true") return;
      const mine = this.text === this.kept;
      this.kept = now;
      if (mine || this.text === now) this.text = now;
      this.preview();
    },
  };
}

document.addEventListener("alpine:init", () => {
  Alpine.data("field", () =>
    fieldParts(async (field, text) => {
      const answer = await send(`${base()}/brief`, { field: field.$root.dataset.field, text });
      if (answer.ok) {
        field.kept = text;
        field.text = answer.fields[field.$root.dataset.field];
        field.kept = field.text;
        field.preview();
      }
      return answer;
    }),
  );
  Alpine.data("hoseField", () =>
    fieldParts((field, text) => send(`${base()}/hose`, { hose: field.$root.dataset.hose, field: field.$root.dataset.field, text })),
  );
  Alpine.data("heightField", () =>
    fieldParts((field, text) => {
      const { at, act, port } = field.$root.dataset;
      return send(`${base()}/rework`, { at, act, value: port ? `${port} ${text}` : text });
    }),
  );
  Alpine.data("sizing", () => ({
    said: "",
    ready: false,
    chosen: {},
    turn: 0,
    init() {
      this.look();
    },
    async look() {
      const keep = [...this.$root.querySelectorAll("[name=keep]:checked")].flatMap((box) => box.value.split(" "));
      const turn = ++this.turn; // a later wish ends an earlier search
      this.said = "Going through the shelf…";
      this.ready = false;
      const options = { method: "POST", headers: { Accept: "application/json", "Content-Type": "application/json", "X-CSRFToken": csrf() } };
      const response = await fetch(`${base()}/size`, { ...options, body: JSON.stringify({ by: document.getElementById("size-by").value, keep }) });
      if (!response.ok) return void (this.said = (await response.json()).message);
      const reader = response.body.pipeThrough(new TextDecoderStream()).getReader();
      let rest = "";
      for (;;) {
        const { done, value } = await reader.read();
        if (turn !== this.turn) return void reader.cancel();
        if (done) break;
        const lines = (rest + value).split("\n");
        rest = lines.pop();
        for (const line of lines) this.hear(JSON.parse(line));
      }
    },
    hear(report) {
      if (report.looked) this.said = `Going through the shelf: ${report.looked} choices looked at…`;
      if (report.message) this.said = report.message;
      if (!report.piece) return;
      document.getElementById("proposal").innerHTML = report.piece;
      this.chosen = report.chosen;
      this.ready = Object.keys(report.chosen).length > 0;
      this.said = this.ready ? "" : "Nothing better than what is fitted.";
    },
    async fitAll() {
      const answer = await change(`${base()}/size/fit`, { chosen: this.chosen });
      if (answer.ok) location.href = `${base()}/circuit`;
    },
  }));
  // The bar on the card where it is a sheet at the bottom: dragged to a height, or turned to the next of three.
  Alpine.data("grip", () => ({
    from: null,
    moved: false,
    init() {
      const kept = Number(localStorage.getItem("card-height"));
      if (kept) this.set(kept);
    },
    set(share) {
      const height = Math.round(Math.min(0.85, Math.max(0.05, share)) * 100) / 100;
      document.documentElement.style.setProperty("--card-height", `${Math.max(60, height * innerHeight)}px`);
      localStorage.setItem("card-height", height);
    },
    hold(event) {
      this.from = event.clientY;
      this.moved = false;
      event.currentTarget.setPointerCapture(event.pointerId);
    },
    drag(event) {
      if (this.from === null || (!this.moved && Math.abs(event.clientY - this.from) < 6)) return;
      this.moved = true;
      this.set(1 - (event.clientY - 22) / innerHeight);
    },
    drop() {
      this.from = null;
    },
    turn() {
      if (this.moved) return void (this.moved = false);
      const now = this.$root.parentElement.offsetHeight / innerHeight;
      this.set([0.32, 0.8].find((x) => x > now + 0.02) ?? 0.05);
    },
  }));
  Alpine.data("price", () => fieldParts((field, text) => send(`${base()}/price`, { fuel: field.$root.dataset.fuel, text })));
  Alpine.data("line", () => ({
    said: "",
    unread: "",
    async read(event) {
      const text = event.target.value;
      const answer = await ask(`/read-line?${new URLSearchParams({ text })}`);
      if (text !== event.target.value || !answer.ok) return;
      this.said = answer.said ? `Reads as ${answer.said}.` : "";
      this.unread = answer.unread ? `Not understood: ${answer.unread}.` : "";
    },
  }));
  const sheet = {
    values() {
      const data = {};
      for (const input of this.$root.querySelectorAll("[name]")) if (!input.matches("fieldset[disabled] *")) data[input.name] = input.value;
      return data;
    },
    say(field, message) {
      for (const place of this.$root.querySelectorAll("[data-wrong]")) {
        const mine = place.dataset.wrong === field && !place.closest("fieldset[disabled]");
        place.textContent = mine ? message : "";
        const input = place.closest(".field").querySelector("[name]");
        input.setAttribute("aria-invalid", mine && message ? "true" : "false");
        if (mine && message) input.focus();
      }
    },
  };
  Alpine.data("ownFuel", () => ({
    ...sheet,
    async save() {
      const values = this.values();
      const data = Object.fromEntries(Object.entries(values).map(([name, value]) => [`fuel_${name}`, value]));
      const answer = await change(`${base()}/own-fuel`, data);
      this.say(answer.ok ? "" : answer.field, answer.message || "");
    },
  }));
  Alpine.data("own", () => ({
    ...sheet,
    pick(event) {
      for (const set of this.$root.querySelectorAll("fieldset")) set.hidden = set.disabled = set.dataset.kind !== event.target.value;
    },
    async load(event) {
      const file = event.target.files[0];
      if (!file) return;
      const area = this.$root.querySelector("textarea");
      area.value = file.size > 40000 ? "" : await file.text();
      if (file.size > 40000) this.say("points", `${file.name} is ${Math.round(file.size / 1000)} kB; a pump's sheet has a few dozen points.`);
      else this.preview();
    },
    async preview() {
      const answer = await ask("/shelf/preview", this.values());
      this.say("points", "");
      document.getElementById("preview").innerHTML = answer.piece || "";
    },
    async save() {
      const answer = await ask("/shelf", this.values());
      if (!answer.ok) return this.say(answer.field, answer.message);
      this.say("", "");
      document.getElementById("own-parts").innerHTML = answer.piece;
      document.getElementById("announce").textContent = `${answer.title} is on the shelf`;
    },
  }));
  Alpine.data("acceptField", () =>
    fieldParts((field, text) => {
      const { rule, part } = field.$root.dataset;
      return send(`${base()}/accept`, { rule, part_found: part, text });
    }, true),
  );
  Alpine.data("page", () => ({
    turned: 0,
    init() {
      const off = document.getElementById("keys-off");
      off.checked = localStorage.getItem("keys") === "off";
      document.addEventListener("click", (event) => this.follow(event));
      document.addEventListener("keydown", (event) => this.key(event));
      document.addEventListener("pointerdown", (event) => this.pan(event));
      document.addEventListener("wheel", (event) => this.wheel(event), { passive: false });
    },
    follow(event) {
      if (event.ctrlKey || event.metaKey || event.shiftKey || event.button) return;
      const part = event.target.closest("a.part, a.rung");
      const hose = event.target.closest("a.hose-link");
      if (part && page().page === "circuit") {
        event.preventDefault();
        look({ part: part.dataset.part, try: "" });
      } else if (hose) {
        event.preventDefault();
        look({ hose: hose.dataset.hose });
      }
    },
    openFuels() {
      if (fuelsOpen()) send(`${base()}/brief`, null);
    },
    chooseCase(event) {
      look({ case: event.currentTarget.dataset.case });
    },
    tryIt(event) {
      look({ try: event.currentTarget.dataset.name });
    },
    putBack() {
      if (page().try) look({ try: "" });
    },
    stepSwap(by) {
      const swaps = [...document.querySelectorAll("button.swap")];
      if (!swaps.length) return;
      const at = swaps.findIndex((b) => b.dataset.name === page().try);
      const next = swaps[at < 0 ? (by > 0 ? 0 : swaps.length - 1) : (at + by + swaps.length) % swaps.length];
      look({ try: next.dataset.name });
    },
    async fit(event) {
      const { part, name } = event.currentTarget.dataset;
      page().try = "";
      const answer = await change(`${base()}/fit`, { part, name });
      if (answer.ok) document.getElementById("announce").textContent = `${part} fitted`;
    },
    async chooseLayout(event) {
      const { layout, rails } = event.currentTarget.dataset;
      const answer = await change(`${base()}/layout`, { layout, rails });
      if (answer.ok) document.getElementById("announce").textContent = "Laid out";
    },
    async offShelf(event) {
      const answer = await ask("/shelf/off", { name: event.currentTarget.dataset.name });
      if (answer.ok) document.getElementById("own-parts").innerHTML = answer.piece;
      else trouble(answer.message);
    },
    async rework(event) {
      const { at, act } = event.currentTarget.dataset;
      const value = event.currentTarget.dataset.value ?? document.getElementById("insert-what").value;
      this.reworked(at, await change(`${base()}/rework`, { at, act, value }));
    },
    async rejoin(event) {
      const [port, node] = ["rejoin-port", "rejoin-node"].map((id) => document.getElementById(id).value);
      const { at, act } = event.currentTarget.dataset;
      this.reworked(at, await change(`${base()}/rework`, { at, act, value: `${port} ${node}` }));
    },
    reworked(at, answer) {
      if (!answer.ok) return;
      page().part = answer.shown;
      document.getElementById("announce").textContent = answer.shown ? `${answer.shown} is shown` : `${at} is out`;
    },
    zoom(by) {
      page().zoom = Math.min(3, Math.max(1, Number(page().zoom || 1) + by));
      zoomed();
      const chosen = document.querySelector(".drawing a.part[aria-current]");
      if (chosen) chosen.scrollIntoView({ inline: "center", block: "nearest" });
    },
    larger() {
      this.zoom(0.5);
    },
    smaller() {
      this.zoom(-0.5);
    },
    wheel(event) {
      if (!event.ctrlKey || !event.target.closest("#drawing")) return;
      event.preventDefault();
      this.turned += event.deltaY;
      if (Math.abs(this.turned) < WHEEL) return;
      this.zoom(this.turned < 0 ? 0.5 : -0.5);
      this.turned = 0;
    },
    pan(event) {
      const frame = event.target.closest("#drawing");
      if (!frame || event.pointerType !== "mouse" || event.button || event.target.closest("a")) return;
      const [x, y] = [event.clientX + frame.scrollLeft, event.clientY + scrollY];
      const move = (e) => {
        frame.scrollLeft = x - e.clientX;
        scrollTo({ top: y - e.clientY, behavior: "instant" });
      };
      document.addEventListener("pointermove", move);
      document.addEventListener("pointerup", () => document.removeEventListener("pointermove", move), { once: true });
    },
    chooseWalk(event) {
      look({ walk: event.currentTarget.value });
    },
    takeBack(event) {
      const { rule, part } = event.currentTarget.dataset;
      change(`${base()}/accept`, { rule, part_found: part, text: "", way: "back" });
    },
    setEnd(event) {
      const { hose, end, deg } = event.currentTarget.dataset;
      change(`${base()}/hose`, { hose, field: end, text: deg });
    },
    undo() {
      change(`${base()}/undo`, {});
    },
    redo() {
      change(`${base()}/undo`, { way: "redo" });
    },
    print() {
      window.print();
    },
    night() {
      const root = document.documentElement;
      root.dataset.theme = root.dataset.theme === "night" ? "day" : "night";
      document.cookie = `theme=${root.dataset.theme}; path=/; max-age=31536000; SameSite=Lax`;
    },
    showKeys() {
      document.getElementById("keys").showModal();
    },
    keysOff(event) {
      localStorage.setItem("keys", event.target.checked ? "off" : "on");
    },
    step(by) {
      const parts = [...document.querySelectorAll("a.part")];
      if (!parts.length || page().page !== "circuit") return;
      const at = parts.findIndex((p) => p.dataset.part === page().part);
      const next = parts[(at + by + parts.length) % parts.length];
      next.focus({ preventScroll: true });
      look({ part: next.dataset.part, try: "" });
    },
    stepCase(by) {
      const cases = [...document.querySelectorAll("button.case")];
      const at = cases.findIndex((c) => c.dataset.case === page().case);
      if (cases.length) look({ case: cases[(at + by + cases.length) % cases.length].dataset.case });
    },
    nextFinding() {
      const found = [...document.querySelectorAll(".finding")];
      const at = found.indexOf(document.activeElement);
      if (found.length) found[(at + 1) % found.length].focus();
    },
    key(event) {
      const typing = event.target.closest("input, select, textarea");
      if (document.querySelector("dialog[open]")) return;
      if ((event.ctrlKey || event.metaKey) && event.key.toLowerCase() === "z" && !typing && page().slug) {
        event.preventDefault();
        if (event.shiftKey) this.redo();
        else this.undo();
        return;
      }
      if (typing || event.ctrlKey || event.metaKey || event.altKey || localStorage.getItem("keys") === "off") return;
      const station = document.querySelector(`[data-station="${event.key}"]`);
      const acts = {
        ArrowRight: () => this.step(1),
        ArrowLeft: () => this.step(-1),
        ArrowDown: () => this.stepSwap(1),
        ArrowUp: () => this.stepSwap(-1),
        Escape: () => this.putBack(),
        Enter: () => document.getElementById("fit-trial") && document.getElementById("fit-trial").click(),
        "+": () => this.larger(),
        "-": () => this.smaller(),
        "[": () => this.stepCase(-1),
        "]": () => this.stepCase(1),
        w: () => document.querySelector("#show-why") && document.querySelector("#show-why summary").click(),
        f: () => this.nextFinding(),
        b: () => (location.href = "/"),
        n: () => this.night(),
        p: () => {
          const sheet = document.querySelector(".sheet-link");
          if (sheet) location.href = sheet.href;
          else if (document.getElementById("print")) this.print();
        },
        "?": () => this.showKeys(),
      };
      const act = acts[event.key] || acts[event.key.toLowerCase()];
      if (station) station.click();
      else if (act) {
        if (/^(Arrow|Enter|Escape)/.test(event.key) && page().page !== "circuit") return;
        if (event.key === "Enter" && event.target.closest("a, button, summary")) return;
        event.preventDefault();
        act();
      }
    },
  }));
});
