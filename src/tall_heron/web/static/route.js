// The page of the route: lines, parts and clamps that are dragged, nudged and typed. The line follows the hand at once; figures and findings follow from the server while it moves.
import { begin } from "./parts.js";
import { curve, lengths } from "./bend.js";
import { dragging } from "./drag.js";
import { grounds } from "./ground.js";
import { ask, base, change, look, page, trouble } from "./server.js";
import { turning } from "./turn.js";
import { View } from "./view.js";

function route(Alpine) {
  Alpine.data("route", () => ({
    data: null,
    held: null,
    asking: false,
    next: null,
    init() {
      this.read();
      const root = this.$root;
      root.addEventListener("pointerdown", (event) => this.hold(event));
      root.addEventListener("click", (event) => this.click(event));
      root.addEventListener("submit", (event) => this.submit(event));
      root.addEventListener("change", (event) => this.changed(event));
      root.addEventListener("keydown", (event) => this.key(event));
      root.addEventListener("dblclick", (event) => this.takeOut(event));
      grounds(root, (act, data) => this.send(act, data));
      window.addEventListener("put", () => this.read());
    },
    read() {
      const script = document.getElementById("route-data");
      if (!script || script === this.script) return;
      this.script = script;
      this.data = JSON.parse(script.textContent);
      turning(this.data);
      this.toChosen();
    },
    // A larger drawing pans in its frame: what is chosen is brought into it.
    toChosen() {
      const frame = document.getElementById("views");
      const chosen = frame.querySelector(".chosen-line .pipe, .chosen-part rect");
      if (
        !chosen ||
        frame.scrollWidth <= frame.clientWidth ||
        this.shownFor === page().line + page().part + page().times
      )
        return;
      this.shownFor = page().line + page().part + page().times;
      const [box, room] = [chosen.getBoundingClientRect(), frame.getBoundingClientRect()];
      frame.scrollLeft += box.left + box.width / 2 - room.left - room.width / 2;
      if (box.bottom > innerHeight || box.top < 0)
        scrollBy({ top: box.top + box.height / 2 - innerHeight / 2, behavior: "instant" });
    },
    line() {
      return this.data.lines[page().line];
    },
    async send(act, more) {
      document.querySelectorAll("#main [data-wrong]").forEach((p) => (p.textContent = ""));
      const { line } = page();
      const answer = await change(`${base()}/route`, () => ({
        act,
        line,
        ...(typeof more === "function" ? more() : more),
      }));
      if (!answer.ok && answer.field) {
        const place = document.querySelector(`#main [data-wrong="${CSS.escape(answer.field)}"]`);
        if (place) {
          place.textContent = answer.message;
          trouble("");
        }
      }
      return answer;
    },
    pick(line) {
      look({ line, part: "", try: "" });
    },
    click(event) {
      const at = event.target.closest(
        "[data-send], [data-pick], [data-look], [data-step], [data-try], [data-suggest], [data-out], [data-after], [data-clamp-more], [data-clamp-less], button[data-zone], a.route-line",
      );
      if (!at) return;
      const d = at.dataset;
      if (at.matches("a.route-line")) {
        event.preventDefault();
        if (!this.justDragged && d.line !== page().line) this.pick(d.line);
      } else if ("pick" in d) this.pick(d.pick);
      else if ("look" in d) look({ view: d.look, times: "" });
      else if ("step" in d) this.zoom(Number(d.step));
      else if ("suggest" in d) look({ try: "0" });
      else if ("try" in d) look({ try: d.try });
      else if ("out" in d) this.without(Number(d.out));
      else if ("after" in d) this.another(Number(d.after));
      else if ("clampMore" in d) this.moreClamps();
      else if ("clampLess" in d) this.send("clamps", { clamps: this.line().clamps.slice(0, -1) });
      else if ("zone" in d) this.fill(JSON.parse(d.zone));
      else this.act(d);
    },
    act({ send, name, panel, off, way, index }) {
      const more = {
        forget: { name },
        without: { name },
        grommet: { panel, on: !off },
        bulkhead: { panel },
        way: { way: Number(way) },
        unguard: { at: Number(index) },
      };
      if (send === "way") page().try = "";
      this.send(send, more[send] || {});
    },
    zoom(by) {
      const steps = [1, 1.5, 2, 3, 4];
      const at = steps.indexOf(Number(page().times || 1));
      look({ times: steps[Math.min(steps.length - 1, Math.max(0, at + by))] });
    },
    moreClamps() {
      const line = this.line();
      const marks = [
        0,
        ...line.clamps,
        lengths(curve(line.a, line.corners, line.b, line.r)).at(-1),
      ];
      const gaps = marks.slice(1).map((m, i) => [m - marks[i], (m + marks[i]) / 2]);
      const widest = gaps.reduce((a, b) => (b[0] > a[0] ? b : a));
      this.send("clamps", { clamps: [...line.clamps, widest[1]].sort((a, b) => a - b) });
    },
    fill(zone) {
      const form = document.querySelector('form[data-act="zone"]');
      for (const k of ["name", "kind", "shape"]) form.elements[k].value = zone[k];
      form.elements.temperature.value = zone.temperature ?? "";
      form.elements.radius.value = `${Math.round(zone.radius * 1000)} mm`;
      form.elements.shielded.checked = zone.shielded;
      for (const end of ["low", "high"])
        "xyz"
          .split("")
          .forEach(
            (k, i) =>
              (form.elements[`${end}_${k}`].value = `${Math.round(zone[end][i] * 1000)} mm`),
          );
      form.elements.name.focus();
    },
    submit(event) {
      const form = event.target.closest("form[data-act], #measure");
      if (!form) return;
      event.preventDefault();
      const fields = Object.fromEntries(new FormData(form));
      if (form.id === "measure") return void this.measure(fields);
      const { act, at, part, name } = form.dataset;
      if ("shielded" in form.elements) fields.shielded = form.elements.shielded.checked;
      this.send(act, {
        ...(name ? { name } : {}),
        ...(part ? { part } : {}),
        ...fields,
        ...(at === undefined ? {} : { at: Number(at) }),
      });
    },
    changed(event) {
      if (event.target.matches('select[data-change="outline"]'))
        this.send("outline", { text: event.target.value });
      else if (
        event.target.closest(
          'form[data-act="dimension"], form[data-act="radius"], form[data-act="measured"], form[data-act="clamped"], form[data-act^="turned_"], form[data-act="corner"]',
        )
      )
        event.target.form.requestSubmit();
    },
    async measure(fields) {
      const answer = await ask(`${base()}/route/measure?${new URLSearchParams(fields)}`);
      document.getElementById("measured-says").textContent = answer.ok
        ? answer.says
        : answer.message;
    },
    without(at) {
      this.send("corners", {
        corners: this.line().corners.filter((_, i) => i !== at),
        what: `${at + 1} out`,
      });
    },
    another(after) {
      const { a, b, corners } = this.line();
      const [one, other] = [corners[after] || a, corners[after + 1] || b];
      const middle = one.map((v, i) => Math.round((v + other[i]) / 2));
      this.send("corners", {
        corners: [...corners.slice(0, after + 1), middle, ...corners.slice(after + 1)],
        what: `${after + 2} added`,
      });
    },
    takeOut(event) {
      const handle = event.target.closest(".handle");
      if (handle) this.without(Number(handle.dataset.at));
    },
    key(event) {
      const way = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, 1], ArrowDown: [0, -1] }[
        event.key
      ];
      const on = event.target.closest(".handle, .stands, a.route-line");
      if (!on || event.target.closest("input, select, textarea")) return;
      if (event.key === "Enter" && on.matches(".stands")) {
        event.preventDefault();
        look({ part: on.dataset.home, line: "", try: "" });
      }
      if ((event.key === "Delete" || event.key === "Backspace") && on.matches(".handle"))
        this.without(Number(on.dataset.at));
      if (!way || on.matches("a.route-line")) return;
      event.preventDefault();
      event.stopPropagation();
      const view = new View(on.closest("svg"));
      const by = event.shiftKey ? 50 : event.altKey ? 1 : 5;
      const [du, dw] = [way[0] * by, way[1] * by];
      const focus = `#${view.svg.id} ${on.matches(".handle") ? `.handle[data-at="${on.dataset.at}"]` : `.stands[data-part="${on.dataset.home}"]`}`;
      const { at, home } = on.dataset;
      const { line } = page();
      // Read when its turn comes, so that a second press builds on where the first has brought it.
      const sent = on.matches(".handle")
        ? this.send("corners", () => ({
            corners: this.data.lines[line].corners.map((c, i) =>
              i === Number(at) ? view.shifted(c, du, dw) : c,
            ),
            what: `${Number(at) + 1} nudged`,
          }))
        : this.send("part", () => ({
            part: home,
            to: view.shifted(this.data.homes[home], du, dw),
          }));
      sent.then(() => document.querySelector(focus)?.focus({ preventScroll: true }));
    },
    ...dragging,
  }));
}

begin(route);
