// What the whole page does: links and buttons, keys, panning, trying a swap.
import { begin } from "./parts.js";
import { WHEEL, pan, zoomed } from "./drawing.js";
import { afterwards, freshMarks, freshPlaces, freshSwaps } from "./after.js";
import { ask, base, change, fuelsOpen, look, page, send, trouble } from "./server.js";
import { fixIt, watchFixes } from "./fixes.js";
import { watch } from "./watch.js";
import { sizeLayouts, sizesWanted } from "./sizing.js";

const asked = new Set(); // layouts that were asked back before they drop what the builder chose

// What stands at the foot of every printed page beside its number.
function foot() {
  const says = document.getElementById("print-foot");
  if (says) document.documentElement.style.setProperty("--foot", JSON.stringify(says.textContent));
}

function wholePage(Alpine) {
  Alpine.data("page", () => ({
    turned: 0,
    init() {
      const off = document.getElementById("keys-off");
      off.checked = localStorage.getItem("keys") === "off";
      document.addEventListener("click", (event) => this.follow(event));
      document.addEventListener("keydown", (event) => this.key(event));
      document.addEventListener("pointerdown", (event) => this.pan(event));
      document.addEventListener("wheel", (event) => this.wheel(event), { passive: false });
      const swaps = document.getElementById("swaps");
      const ladder = document.querySelector("#ladder svg");
      if (swaps && swaps.firstElementChild && ladder) freshMarks();
      else afterwards();
      freshPlaces();
      if (sizesWanted()) sizeLayouts();
      watchFixes();
      watch();
      foot();
      window.addEventListener("beforeprint", foot);
    },
    fixIt,
    follow(event) {
      if (event.ctrlKey || event.metaKey || event.shiftKey || event.button) return;
      const part = event.target.closest("a.part, a.rung");
      const hose = event.target.closest("a.hose-link");
      const test = event.target.closest("a.test-row, a.test-row-link");
      if (test && page().page === "prove" && !page().view) {
        event.preventDefault();
        look({ part: test.dataset.part });
      } else if (part && page().page === "circuit") {
        event.preventDefault();
        look({ part: part.dataset.part, try: "" });
      } else if (hose) {
        event.preventDefault();
        if (hose.dataset.hose !== page().hose) look({ hose: hose.dataset.hose }); // what is being typed on its card stays
      }
    },
    openFuels() {
      if (fuelsOpen()) send(`${base()}/brief`, null);
    },
    chooseCase(event) {
      look({ case: event.currentTarget.dataset.case });
    },
    tryIt(event) {
      const { name } = event.currentTarget.dataset;
      if (name === page().try)
        this.fit(event); // its button may not have come back yet as the one that fits it
      else look({ try: name });
    },
    putBack() {
      if (page().try) look({ try: "" });
    },
    everySwap() {
      freshSwaps(true);
    },
    stepSwap(by) {
      const swaps = [...document.querySelectorAll("button.swap")];
      if (!swaps.length) return;
      const at = swaps.findIndex((b) => b.dataset.name === page().try);
      const next =
        swaps[at < 0 ? (by > 0 ? 0 : swaps.length - 1) : (at + by + swaps.length) % swaps.length];
      look({ try: next.dataset.name });
    },
    async fit(event) {
      const { part, name } = event.currentTarget.dataset;
      page().try = "";
      const answer = await change(`${base()}/fit`, { part, name });
      if (answer.ok) document.getElementById("announce").textContent = `${part} fitted`;
    },
    async answerLine(event) {
      const { question, guess } = event.currentTarget.dataset;
      const answer = await change(`${base()}/said`, { question, guess });
      if (answer.ok)
        document.getElementById("announce").textContent = guess
          ? `${question} is ${guess}`
          : `${question} let be`;
    },
    async keepPart() {
      const input = document.getElementById("have-text");
      const answer = await send(`${base()}/have`, { text: input.value });
      if (answer.ok) document.getElementById("announce").textContent = "Kept";
      else document.getElementById("have-wrong").textContent = answer.message || "";
    },
    async forgetPart(event) {
      await change(`${base()}/have`, { text: event.currentTarget.dataset.have, off: true });
    },
    async chooseLayout(event) {
      const button = event.currentTarget;
      const { layout, rails } = button.dataset;
      const key = `${page().head} ${layout} ${rails}`;
      const answer = await change(`${base()}/layout`, { layout, rails, sure: asked.has(key) });
      if (answer.ok) document.getElementById("announce").textContent = "Laid out";
      if (!answer.ok && answer.field === "sure") asked.add(key); // the row may be drawn anew before it is pressed again
      if (sizesWanted()) sizeLayouts();
    },
    async offShelf(event) {
      const answer = await ask("/shelf/off", { name: event.currentTarget.dataset.name });
      if (answer.ok) document.getElementById("own-parts").innerHTML = answer.piece;
      else trouble(answer.message);
    },
    async renewPart(event) {
      const answer = await ask("/shelf/renew", { ...event.currentTarget.dataset });
      if (answer.ok) document.getElementById("own-parts").innerHTML = answer.piece;
      else trouble(answer.message);
    },
    async rework(event) {
      const { at, act } = event.currentTarget.dataset;
      const value =
        event.currentTarget.dataset.value ?? document.getElementById("insert-what").value;
      this.reworked(at, await change(`${base()}/rework`, { at, act, value }));
    },
    async rejoin(event) {
      const [port, node] = ["rejoin-port", "rejoin-node"].map(
        (id) => document.getElementById(id).value,
      );
      const { at, act } = event.currentTarget.dataset;
      this.reworked(at, await change(`${base()}/rework`, { at, act, value: `${port} ${node}` }));
    },
    reworked(at, answer) {
      if (!answer.ok) return;
      page().part = answer.shown;
      document.getElementById("announce").textContent = answer.shown
        ? `${answer.shown} is shown`
        : `${at} is out`;
    },
    zoom(by) {
      if (page().page === "route")
        return void document.getElementById(by > 0 ? "route-larger" : "route-smaller")?.click();
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
      if (!frame || event.pointerType !== "mouse" || event.button || event.target.closest("a"))
        return;
      pan(frame, event);
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
    setOwnEnd(event) {
      const { hose, end, angle, take, bore } = event.currentTarget.dataset;
      change(`${base()}/hose`, { hose, field: end, text: "", angle, take, bore });
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
    stepBuild(by) {
      const builds = [...document.querySelectorAll(".place h2 a")];
      const at = builds.indexOf(document.activeElement);
      builds[Math.max(0, Math.min(builds.length - 1, at + by))]?.focus();
    },
    nextFinding() {
      const found = [...document.querySelectorAll(".finding")];
      const at = found.indexOf(document.activeElement);
      if (found.length) found[(at + 1) % found.length].focus();
    },
    key(event) {
      const typing = event.target.closest("input, select, textarea");
      if (document.querySelector("dialog[open]")) return;
      if (
        (event.ctrlKey || event.metaKey) &&
        event.key.toLowerCase() === "z" &&
        !typing &&
        page().slug
      ) {
        event.preventDefault();
        if (event.shiftKey) this.redo();
        else this.undo();
        return;
      }
      if (
        typing ||
        event.ctrlKey ||
        event.metaKey ||
        event.altKey ||
        localStorage.getItem("keys") === "off"
      )
        return;
      const station = document.querySelector(`[data-station="${event.key}"]`);
      const acts = {
        ArrowRight: () => this.step(1),
        ArrowLeft: () => this.step(-1),
        ArrowDown: () => this.stepSwap(1),
        ArrowUp: () => this.stepSwap(-1),
        Escape: () => this.putBack(),
        Enter: () =>
          document.getElementById("fit-trial") && document.getElementById("fit-trial").click(),
        "+": () => this.larger(),
        "-": () => this.smaller(),
        "[": () => this.stepCase(-1),
        "]": () => this.stepCase(1),
        w: () =>
          document.querySelector("#show-why") &&
          document.querySelector("#show-why summary").click(),
        f: () => this.nextFinding(),
        b: () => (location.href = "/"),
        n: () => this.night(),
        r: () => document.getElementById("run-next")?.click(),
        p: () => {
          const sheet = document.querySelector(".sheet-link");
          if (sheet) location.href = sheet.href;
          else if (document.getElementById("print")) this.print();
        },
        "?": () => this.showKeys(),
        "/": () => document.getElementById("find")?.focus(),
      };
      const act = acts[event.key] || acts[event.key.toLowerCase()];
      if (station) station.click();
      else if (act) {
        if (page().page === "bench" && /^Arrow(Up|Down)$/.test(event.key)) {
          event.preventDefault();
          return this.stepBuild(event.key === "ArrowDown" ? 1 : -1);
        }
        if (/^(Arrow|Enter|Escape)/.test(event.key) && page().page !== "circuit") return;
        if (event.key === "Enter" && event.target.closest("a, button, summary")) return;
        event.preventDefault();
        act();
      }
    },
  }));
}

begin(wholePage);
