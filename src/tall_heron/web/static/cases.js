// Station 4: cases of one's own, a run played back, curves.
import { begin } from "./parts.js";
import { ask, base, trouble } from "./server.js";
import { sheet } from "./sheet.js";

const SVG = "http://www.w3.org/2000/svg";
const MARGIN = 12; // px round a tank
const FASTER = 1; // seconds of the run a second of the clock

function shape(name, attributes, parent) {
  const made = document.createElementNS(SVG, name);
  for (const [key, value] of Object.entries(attributes)) made.setAttribute(key, value);
  parent.append(made);
  return made;
}

// What of a polygon lies under a straight surface z = h + s u.
export function under(polygon, h, s) {
  const out = [];
  polygon.forEach(([u, z], i) => {
    const [v, w] = polygon[(i + 1) % polygon.length];
    const [a, b] = [h + s * u - z, h + s * v - w];
    if (a >= 0) out.push([u, z]);
    if (a * b < 0) out.push([u + ((v - u) * a) / (a - b), z + ((w - z) * a) / (a - b)]);
  });
  return out;
}

// The quadrilateral of a prism seen from its side, at y; and from behind, at x.
function fromSide([, x0, x1, y0, y1, f0, f1, t0, t1], y) {
  return y < y0 || y > y1
    ? null
    : [
        [x0, f0],
        [x1, f1],
        [x1, t1],
        [x0, t0],
      ];
}
function fromBehind([, x0, x1, y0, y1, f0, f1, t0, t1], x) {
  if (x < x0 || x > x1) return null;
  const at = (a, b) => (x1 > x0 ? a + ((b - a) * (x - x0)) / (x1 - x0) : a);
  return [
    [y0, at(f0, f1)],
    [y1, at(f0, f1)],
    [y1, at(t0, t1)],
    [y0, at(t0, t1)],
  ];
}

function cases(Alpine) {
  Alpine.data("ownCase", () => ({
    ...sheet,
    async tell(data) {
      const answer = await ask(`${base()}/cases`, data);
      if (answer.ok) location.reload();
      else trouble(answer.message, null);
      return answer;
    },
    press(event) {
      const { act, key } = event.currentTarget.dataset;
      this.tell({ act, key });
    },
    async fitTrial(event) {
      const { part, name } = event.currentTarget.dataset;
      const answer = await ask(`${base()}/fit`, { part, name });
      if (answer.ok) location.href = `${base()}/cases`;
      else trouble(answer.message, null);
    },
    async save() {
      const answer = await this.tell({ act: "add", ...this.values() });
      if (!answer.ok) this.say(answer.field, answer.message || "");
    },
  }));
  Alpine.data("tankInside", () => ({
    ...sheet,
    async save() {
      const answer = await ask(`${base()}/cases/inside`, {
        tank: this.$root.dataset.tank,
        ...this.values(),
      });
      if (answer.ok) return void location.reload();
      this.say(answer.field, answer.message || "");
      if (answer.status === 409) trouble(answer.message);
    },
  }));
  Alpine.data("runFile", () => ({
    ...sheet,
    async load(event) {
      const file = event.target.files[0];
      if (!file) return;
      const fits = file.size <= 900000;
      this.$root.querySelector("[name=text]").value = fits ? await file.text() : "";
      this.say(
        "text",
        fits ? "" : `${file.name} is ${Math.round(file.size / 1000)} kB; keep every tenth row.`,
      );
      const name = this.$root.querySelector("[name=name]");
      if (!name.value) name.value = file.name.replace(/\.[^.]*$/, "").slice(0, 60);
    },
    async save() {
      const answer = await ask("/runs", this.values());
      if (!answer.ok) return this.say(answer.field || "text", answer.message || "");
      location.href = `${base()}/cases/run?run=${answer.key}`;
    },
    async takeOff(event) {
      const answer = await ask("/runs/off", { key: event.currentTarget.dataset.key });
      if (answer.ok) location.href = `${base()}/cases/run`;
      else trouble(answer.message);
    },
  }));
  Alpine.data("slosh", () => ({
    timer: 0,
    views: [],
    init() {
      this.run = JSON.parse(document.getElementById("slosh-data").textContent);
      const { prisms, outlet, long, wide, high, openings } = this.run;
      const room = document.getElementById("slosh-tanks");
      const width = room.clientWidth || 800;
      const scale = Math.min((width - 5 * MARGIN) / (long + wide), 190 / high); // px a mm, one for both
      const views = [
        {
          name: "from the right: front to the right",
          span: long,
          cut: (p) => fromSide(p, outlet[1]),
          h: (i, slopes, heights) => heights[i] + slopes[1] * outlet[1],
          s: (slopes) => slopes[0],
          at: outlet[0],
          walls: openings.map((o) => [o[0], o[2], o[3]]),
        },
        {
          name: "from behind: left to the left",
          span: wide,
          cut: (p) => fromBehind(p, outlet[0]),
          h: (i, slopes, heights) => heights[i] + slopes[0] * outlet[0],
          s: (slopes) => slopes[1],
          at: outlet[1],
          walls: [],
        },
      ];
      for (const view of views) {
        const frame = shape(
          "svg",
          {
            width: view.span * scale + 2 * MARGIN,
            height: high * scale + 2 * MARGIN + 20,
            class: "vessel",
            "aria-hidden": "true",
          },
          room,
        );
        const place = ([u, z]) =>
          `${(MARGIN + u * scale).toFixed(1)},${(MARGIN + (high - z) * scale).toFixed(1)}`;
        view.place = place;
        view.parts = prisms
          .map((p) => ({ compartment: p[0], polygon: view.cut(p) }))
          .filter((p) => p.polygon);
        for (const part of view.parts) {
          shape("polygon", { points: part.polygon.map(place).join(" "), class: "room" }, frame);
          part.fuel = shape("polygon", { class: "fuel" }, frame);
        }
        for (const part of view.parts)
          shape("polygon", { points: part.polygon.map(place).join(" "), class: "wall" }, frame);
        const [ox, oy] = place([view.at, outlet[2]]).split(",");
        view.outlet = shape("circle", { cx: ox, cy: oy, r: 6, class: "outlet" }, frame);
        shape(
          "text",
          { x: MARGIN, y: high * scale + 2 * MARGIN + 14, class: "view-name" },
          frame,
        ).textContent = view.name;
      }
      const metre = [1000, 500, 200, 100, 50].find((mm) => mm * scale < 160) || 50;
      const bar = shape(
        "svg",
        { width: metre * scale + 40, height: 34, class: "scale-bar", "aria-hidden": "true" },
        room,
      );
      shape("path", { d: `M2,8 v8 M2,12 h${metre * scale} M${2 + metre * scale},8 v8` }, bar);
      shape("text", { x: 2, y: 30 }, bar).textContent = `${metre} mm`;
      this.views = views;
      this.show();
    },
    get slider() {
      return document.getElementById("slosh-at");
    },
    show() {
      const { run } = this;
      const i = Number(this.slider.value);
      const [slopes, heights] = [run.slopes[i], run.heights[i]];
      const wet = Boolean(run.covered[i]);
      for (const view of this.views) {
        for (const part of view.parts)
          part.fuel.setAttribute(
            "points",
            under(part.polygon, view.h(part.compartment, slopes, heights), view.s(slopes))
              .map(view.place)
              .join(" "),
          );
        view.outlet.classList.toggle("is-dry", !wet);
      }
      const line = document.getElementById("slosh-now");
      const [left, right] = [Number(line.dataset.left), Number(line.dataset.right)];
      const x = left + (i / (run.slopes.length - 1)) * (right - left);
      line.setAttribute("x1", x);
      line.setAttribute("x2", x);
      const rail = run.rail ? `, rail ${run.fed[i] ? run.rail[i] : 0} ${run.pressure_unit}` : "";
      const words = `${(i * run.step).toFixed(1)} s: outlet ${wet ? "covered" : "dry"}, ${run.pot ? "surge tank" : "tank"} ${run.volumes[i].toFixed(2)} ${run.volume_unit}${rail}${run.fed[i] ? "" : ", the pump draws air"}`;
      document.getElementById("slosh-says").textContent = words;
      this.slider.setAttribute("aria-valuetext", words);
    },
    play() {
      const word = document.getElementById("slosh-play-word");
      if (this.timer) {
        cancelAnimationFrame(this.timer);
        this.timer = 0;
        word.textContent = "Play";
        return;
      }
      word.textContent = "Stop";
      const last = this.run.slopes.length - 1;
      const start = Number(this.slider.value) >= last ? 0 : Number(this.slider.value);
      let began = null;
      const step = (now) => {
        began ??= now;
        const at = start + ((now - began) / 1000 / this.run.step) * FASTER;
        this.slider.value = Math.min(at, last);
        this.show();
        if (at < last) this.timer = requestAnimationFrame(step);
        else this.play();
      };
      this.timer = requestAnimationFrame(step);
    },
    nextDry() {
      const { covered } = this.run;
      const now = Number(this.slider.value);
      const starts = covered.flatMap((wet, i) => (!wet && (i === 0 || covered[i - 1]) ? [i] : []));
      this.slider.value = starts.find((i) => i > now) ?? starts[0] ?? now;
      this.show();
      this.slider.focus();
    },
  }));
}

begin(cases);
