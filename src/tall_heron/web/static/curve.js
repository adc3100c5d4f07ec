// Charts with zoom and read-out, drawn by uPlot from the data that stands beside them.
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
    const taken = [];
    for (const dot of data.dots) {
      const x = plot.valToPos(dot.x, "x", true);
      const y = plot.valToPos(dot.y, "y", true);
      const { left, top, width, height } = plot.bbox;
      if (x < left || x > left + width || y < top || y > top + height) continue;
      ctx.fillStyle = ink(dot.style);
      ctx.beginPath();
      ctx.arc(x, y, 4.5 * devicePixelRatio, 0, 7);
      ctx.fill();
      const wide = ctx.measureText(dot.label).width;
      const high = 16 * devicePixelRatio;
      const places = [
        [8, -6],
        [8, 16],
        [-wide / devicePixelRatio - 8, -6],
        [-wide / devicePixelRatio - 8, 16],
        [8, -22],
        [8, 32],
      ].map(([dx, dy]) => [x + dx * devicePixelRatio, y + dy * devicePixelRatio]);
      const free = places.find(
        ([a, b]) =>
          a >= left &&
          a + wide <= left + width &&
          b - high >= top &&
          b <= top + height &&
          taken.every(([p, q, w]) => a + wide < p || a > p + w || b < q - high || b - high > q),
      );
      if (!free) continue;
      taken.push([...free, wide]);
      ctx.strokeText(dot.label, ...free);
      ctx.fillText(dot.label, ...free);
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
      const options = {
        width: room.clientWidth,
        height: Number(this.$root.dataset.high),
        scales: { x: { time: false } },
        axes: [axis(data.along, 34), axis(data.up, 56)],
        series: [
          { label: data.along },
          ...data.lines.map((line) => ({
            label: line.label,
            stroke: ink(line.style),
            width: line.style === "thin" ? 1 : 2.5,
            dash: line.dashed ? DASH : undefined,
            points: { show: false },
            spanGaps: false,
          })),
        ],
        hooks: { draw: [names(data)] },
        cursor: { drag: { x: true, y: false } },
      };
      if (data.dots.length)
        options.series.push({
          label: data.of_dots,
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
