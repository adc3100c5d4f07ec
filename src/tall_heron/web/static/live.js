// Live pages: the stand-in car and rig as events from the server, drawn as they come.
import { begin } from "./parts.js";
import { linked } from "./linked.js";
import { ask, base, trouble } from "./server.js";

const MOST = 1500; // rows that are drawn

const CAR = (units) => [
  {
    title: "Rail",
    unit: units.pressure,
    series: [
      { label: "rail, read", at: 2 },
      { label: "predicted", at: 3 },
    ],
  },
  {
    title: "Rail over manifold",
    unit: units.pressure,
    series: [{ label: "read", of: (r) => (r[2] === null || r[4] === null ? null : r[2] - r[4]) }],
  },
  { title: "Volts", unit: "V", series: [{ label: "volts", at: 5 }] },
  { title: "Injector duty", unit: "%", series: [{ label: "duty", at: 6 }] },
  { title: "Pump current", unit: "A", series: [{ label: "pumps", at: 7 }] },
];
const RIG = (units) => [
  { title: "Flow", unit: units.flow, series: [{ label: "flow", at: 2 }] },
  { title: "Pressure", unit: units.pressure, series: [{ label: "pressure", at: 1 }] },
  { title: "Current", unit: "A", series: [{ label: "current", at: 4 }] },
];

function drawn(rows, charts) {
  const step = Math.max(1, Math.ceil(rows.length / MOST));
  const kept = rows.filter((_, i) => i % step === 0);
  return {
    x: kept.map((r) => r[0]),
    charts: charts
      .map((c) => ({
        ...c,
        series: c.series.map((s) => ({
          ...s,
          values: kept.map((r) => (s.of ? s.of(r) : r[s.at])),
        })),
      }))
      .filter((c) => c.series.some((s) => s.values.some((v) => v !== null))),
  };
}

function live(Alpine) {
  Alpine.data("live", () => ({
    source: null,
    words(text) {
      this.$root.querySelector("[data-live-words]").textContent = text;
    },
    chosen() {
      const data = { seed: "1", speed: "10" };
      for (const input of this.$root.querySelectorAll("[name]")) data[input.name] = input.value;
      if (this.$root.dataset.kind === "dyno") data.speed = "40";
      return data;
    },
    running(on) {
      document.getElementById("live-start").hidden = on;
      document.getElementById("live-stop").hidden = !on;
    },
    start() {
      this.stop();
      const kind = this.$root.dataset.kind;
      this.told = this.chosen();
      this.rows = [];
      this.$root.querySelector("[data-live-cause]")?.replaceChildren();
      this.words(kind === "rig" ? "The rig runs." : "Driving.");
      this.running(true);
      this.source = new EventSource(
        `${base()}/prove/${kind === "rig" ? "rig-stream" : "stream"}?${new URLSearchParams(this.told)}`,
      );
      const hear = (name, then) =>
        this.source.addEventListener(name, (event) => then(JSON.parse(event.data)));
      hear("begins", (units) => {
        this.kinds = (kind === "rig" ? RIG : CAR)(units);
        this.units = units;
      });
      hear("rows", (rows) => this.take(rows));
      hear("cause", (cause) => this.cause(cause));
      hear("points", (points) =>
        this.words(
          points
            .map((p) => `${p[0]} ${this.units.pressure}: ${p[1]} ${this.units.flow}, ${p[2]} A`)
            .join(" · "),
        ),
      );
      hear("ended", (end) => {
        this.stop();
        if (kind !== "rig")
          this.words(
            `${this.said ? `${this.said} ` : ""}${end.words[0].toUpperCase()}${end.words.slice(1)}.`,
          );
        const keep = document.getElementById("live-keep");
        if (keep) keep.hidden = false;
      });
      this.source.onerror = () => {
        if (!this.source) return;
        this.stop();
        this.words("The stream broke off.");
      };
    },
    halt() {
      this.stop();
      this.words("Stopped.");
    },
    stop() {
      if (this.source) this.source.close();
      this.source = null;
      this.running(false);
    },
    async take(rows) {
      this.rows.push(...rows);
      if (this.$root.dataset.kind === "dyno") return this.fillDyno();
      const data = drawn(this.rows, this.kinds);
      const room = this.$root.querySelector("[data-live-charts]");
      if (!room || this.drawing) return undefined;
      if (
        !this.charts ||
        this.rows.length === rows.length ||
        this.charts.plots.length !== data.charts.length
      ) {
        this.drawing = true;
        if (this.charts) this.charts.end();
        this.charts = await linked(room, data, null);
        this.drawing = false;
      } else this.charts.fill(data);
      this.now(rows[rows.length - 1]);
      return undefined;
    },
    now(row) {
      const place = this.$root.querySelector("[data-live-now]");
      if (!place) return;
      place.hidden = false;
      const figures = [
        ["rpm", row[1], 0, ""],
        ["rail", row[2], 1, this.units.pressure],
        ["predicted", row[3], 1, this.units.pressure],
        ["volts", row[5], 1, "V"],
        ["injector duty", row[6], 0, "%"],
      ];
      place.replaceChildren(
        ...figures
          .filter((f) => f[1] !== null)
          .map(([name, value, decimals, unit]) => {
            const box = document.createElement("div");
            const dt = document.createElement("dt");
            dt.textContent = name;
            const dd = document.createElement("dd");
            const big = document.createElement("span");
            big.className = "big known";
            big.textContent = value.toFixed(decimals);
            const small = document.createElement("span");
            small.className = "unit";
            small.textContent = ` ${unit}`;
            dd.append(big, small);
            box.append(dt, dd);
            return box;
          }),
      );
    },
    cause(cause) {
      const place = this.$root.querySelector("[data-live-cause]");
      const found = cause.found.map(
        (r) => `${r.words}${r.amount ? `: ${r.amount}` : ""} (${r.share} %)`,
      );
      this.said = found.length
        ? `${cause.sure ? "Likely" : found.length > 1 ? "Not told apart yet" : "Best, not surely"}: ${found.join("; or ")}.`
        : `${cause.words[0].toUpperCase()}${cause.words.slice(1)}.`;
      this.words(this.said);
      if (!place) return;
      place.replaceChildren(
        ...(cause.blind || []).map((text) => {
          const p = document.createElement("p");
          p.className = "note";
          p.textContent = `It cannot tell: ${text}.`;
          return p;
        }),
      );
    },
    // The lowest rail within 200 rpm of each row's speed, at nearly full load.
    fillDyno() {
      const most = Math.max(...this.rows.map((r) => r[4]));
      for (const line of document.querySelectorAll("tr[data-rpm]")) {
        const near = this.rows.filter(
          (r) =>
            Math.abs(r[1] - Number(line.dataset.rpm)) < 200 && r[4] > 0.9 * most && r[2] !== null,
        );
        if (!near.length) continue;
        const sorted = near.map((r) => r[2]).sort((a, b) => a - b);
        const low = sorted[Math.floor(sorted.length * 0.1)];
        const cell = line.querySelector(".live-cell");
        const under = low < Number(line.dataset.lift);
        cell.textContent = `${low.toFixed(1)}${under ? " lift" : ""}`;
        cell.classList.toggle("wrong", under);
      }
    },
    async keep() {
      const answer = await ask(`${base()}/prove/live/keep`, this.told);
      if (!answer.ok) trouble(answer.message);
      else
        location.href = `${base()}/prove/replay?${new URLSearchParams({ file: answer.sha256, name: `stand-in drive ${this.told.seed}` })}`;
    },
  }));
}

begin(live);
