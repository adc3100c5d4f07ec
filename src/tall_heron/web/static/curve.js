// Charts with zoom and read-out, drawn by uPlot from the data that stands beside them.
import { labelPlace } from "./labels.js";
import { begin } from "./parts.js";

const INKS = { ink: "--ink", amber: "--amber-ink", rust: "--rust", own: "--own", thin: "--ink-3" };
const DASH = [6, 4];

function ink(name) {
  return getComputedStyle(document.documentElement)
    .getPropertyValue(INKS[name] || "--ink")
    .trim();
}

// The lines' figures on one axis that holds the dots' places too, so that each dot can be read like a point of a line.
export function joined(data) {
  const xs = [...new Set([...data.x, ...data.dots.map((d) => d.x)])]
    .filter((x) => x !== null)
    .sort((a, b) => a - b);
  const at = new Map(data.x.map((x, i) => [x, i]));
  const lines = data.lines.map((line) =>
    xs.map((x) => (at.has(x) ? line.values[at.get(x)] : undefined)),
  );
  const dots = xs.map((x) => data.dots.find((d) => d.x === x)?.y ?? null);
  return { xs, lines, dots };
}

// Where each of so many lines runs, as places in the drawing every few pixels; a gap parts a line, a place that only a dot has does not.
function linesOf(plot, count) {
  const out = [];
  for (const ys of plot.data.slice(1, 1 + count)) {
    let last = null;
    plot.data[0].forEach((x, i) => {
      if (ys[i] === null) last = null;
      if (ys[i] === null || ys[i] === undefined) return;
      const at = [plot.valToPos(x, "x", true), plot.valToPos(ys[i], "y", true)];
      const steps = last ? Math.ceil(Math.hypot(at[0] - last[0], at[1] - last[1]) / 6) : 1;
      for (let k = 1; k <= steps; k++)
        out.push(last ? at.map((v, d) => last[d] + ((v - last[d]) * k) / steps) : at);
      last = at;
    });
  }
  return out;
}

function names(data) {
  return (plot) => {
    const { ctx } = plot;
    ctx.save();
    ctx.font = `600 ${14 * devicePixelRatio}px "Sofia Sans Condensed", sans-serif`;
    ctx.strokeStyle = getComputedStyle(document.documentElement).getPropertyValue("--paper");
    ctx.lineWidth = 5 * devicePixelRatio;
    ctx.lineJoin = "round";
    ctx.textAlign = "left";
    ctx.textBaseline = "alphabetic";
    const { left, top, width, height } = plot.bbox;
    const one = devicePixelRatio;
    const dots = data.dots
      .map((dot) => ({
        dot,
        x: plot.valToPos(dot.x, "x", true),
        y: plot.valToPos(dot.y, "y", true),
      }))
      .filter(({ x, y }) => x >= left && x <= left + width && y >= top && y <= top + height);
    const boxes = dots.map(({ x, y }) => [x - 6 * one, y - 6 * one, x + 6 * one, y + 6 * one]);
    const strokes = dots.length ? linesOf(plot, data.lines.length) : [];
    for (const { dot, x, y } of dots) {
      ctx.fillStyle = ink(dot.style);
      ctx.beginPath();
      ctx.arc(x, y, 4.5 * one, 0, 7);
      ctx.fill();
      const [wide, high] = [ctx.measureText(dot.label).width, 15 * one];
      const room = [left, top, left + width, top + height];
      const place = labelPlace([x, y], [wide, high], one, room, boxes, strokes);
      boxes.push([place[0], place[1] - high, place[0] + wide, place[1] + 3 * one]);
      const near = [Math.min(Math.max(x, place[0]), place[0] + wide), place[1] - high / 2];
      if (Math.hypot(near[0] - x, near[1] - y) > 20 * one) {
        ctx.save();
        [ctx.strokeStyle, ctx.lineWidth] = [ink("thin"), one];
        ctx.beginPath();
        ctx.moveTo(x, y);
        ctx.lineTo(...near);
        ctx.stroke();
        ctx.restore();
      }
      ctx.strokeText(dot.label, ...place);
      ctx.fillText(dot.label, ...place);
    }
    ctx.restore();
  };
}

function curves(Alpine) {
  Alpine.data("curve", () => ({
    async init() {
      const { default: UPlot } = await import("./vendor/uplot.js");
      const data = JSON.parse(this.$root.querySelector("script").textContent);
      const room = this.$root.querySelector(".curve-room");
      const { xs, lines, dots } = joined(data);
      const axis = (label, size) => ({
        label,
        size,
        stroke: ink("thin"),
        grid: { stroke: `${ink("thin")}33`, width: 1 },
        ticks: { stroke: ink("thin"), width: 1 },
        font: '500 15px "Sofia Sans Condensed", sans-serif',
        labelFont: '600 15px "Sofia Sans Condensed", sans-serif',
        labelSize: 20,
      });
      const read = (u, v) => (v === null || v === undefined ? "" : String(v)); // nothing before one points
      const options = {
        width: room.clientWidth,
        height: Number(this.$root.dataset.high),
        scales: { x: { time: false } },
        axes: [axis(data.along, 34), axis(data.up, 56)],
        series: [
          { label: data.along, value: read },
          ...data.lines.map((line) => ({
            label: line.label,
            value: read,
            stroke: ink(line.style),
            width: line.style === "thin" ? 1 : 2.5,
            dash: line.dashed ? DASH : undefined,
            points: { show: false },
            spanGaps: false,
          })),
        ],
        legend: { markers: { width: 3, dash: (u, i) => (u.series[i].dash ? "dashed" : "solid") } },
        hooks: { draw: [names(data)] },
        cursor: { drag: { x: true, y: false } },
      };
      if (data.dots.length)
        options.series.push({
          label: data.of_dots,
          value: read,
          stroke: ink("ink"),
          paths: () => null,
          points: { show: false },
        });
      this.plot = new UPlot(options, [xs, ...lines, ...(data.dots.length ? [dots] : [])], room);
      new ResizeObserver(() =>
        this.plot.setSize({ width: room.clientWidth, height: options.height }),
      ).observe(room);
    },
  }));
}

begin(curves);
