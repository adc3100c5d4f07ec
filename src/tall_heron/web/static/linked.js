// Charts over one time, drawn by uPlot: what is zoomed in one is zoomed in all, the pointer stands in all at once.
const INKS = ["--ink", "--amber-ink", "--own", "--rust"];
const HIGH = 150;
const UP = 64; // px for the figures at the left, so that all charts begin at one place

const colour = (name) => getComputedStyle(document.documentElement).getPropertyValue(name).trim();

// Where rail and model part, as bands behind the lines.
function bands(marks) {
  return (plot) => {
    const { ctx, bbox } = plot;
    ctx.save();
    ctx.fillStyle = colour("--amber-wash");
    for (const [from, to] of marks) {
      const a = Math.max(plot.valToPos(from, "x", true), bbox.left);
      const b = Math.min(plot.valToPos(to, "x", true), bbox.left + bbox.width);
      if (b > a - 1) ctx.fillRect(a, bbox.top, Math.max(b - a, 2), bbox.height);
    }
    ctx.restore();
  };
}

// From where to where a chart goes: what nearly all of its figures lie within, so that a loose plug does not press the rest flat.
function within(values) {
  const sorted = values.filter((v) => v !== null && v !== undefined).sort((a, b) => a - b);
  if (!sorted.length) return [0, 1];
  const low = sorted[Math.floor(0.005 * (sorted.length - 1))];
  const high = sorted[Math.ceil(0.995 * (sorted.length - 1))];
  const room = Math.max(0.08 * (high - low), 0.02 * Math.abs(high), 0.05);
  return [low - room, high + room];
}

export async function linked(room, data, zoomed) {
  const { default: UPlot } = await import("./vendor/uplot.js");
  room.replaceChildren();
  const sync = UPlot.sync("run");
  const font = '500 15px "Sofia Sans Condensed", sans-serif';
  const thin = colour("--ink-3");
  const plots = data.charts.map((chart, n) => {
    const box = document.createElement("section");
    box.className = "linked";
    const title = document.createElement("h3");
    title.textContent = chart.unit ? `${chart.title}, ${chart.unit}` : chart.title;
    const place = document.createElement("div");
    place.setAttribute("role", "img");
    place.setAttribute("aria-label", `${chart.title} over time`);
    box.append(title, place);
    room.append(box);
    const axis = {
      stroke: thin,
      grid: { stroke: `${thin}33`, width: 1 },
      ticks: { stroke: thin, width: 1 },
      font,
    };
    const options = {
      width: room.clientWidth,
      height: n === 0 ? HIGH * 1.5 : HIGH,
      scales: {
        x: { time: false },
        y: { range: (plot) => within(plot.data.slice(1).flatMap((row) => [...row])) },
      },
      axes: [
        { ...axis, size: 30 },
        { ...axis, size: UP },
      ],
      series: [
        { label: "s" },
        ...chart.series.map((s, i) => ({
          label: s.label,
          stroke: colour(INKS[i % INKS.length]),
          width: i ? 1.6 : 2,
          dash: i ? [6, 4] : undefined,
          spanGaps: false,
          points: { show: false },
        })),
      ],
      hooks: {
        drawClear: [bands(data.marks || [])],
        setSelect: [
          (plot) =>
            plot.select.width > 4 &&
            zoomed &&
            zoomed(
              plot.posToVal(plot.select.left, "x"),
              plot.posToVal(plot.select.left + plot.select.width, "x"),
            ),
        ],
      },
      cursor: {
        sync: { key: sync.key, setSeries: false },
        drag: { x: true, y: false, setScale: !zoomed },
      },
    };
    const plot = new UPlot(options, [data.x, ...chart.series.map((s) => s.values)], place);
    if (zoomed) plot.over.addEventListener("dblclick", () => zoomed(null, null));
    sync.sub(plot);
    return plot;
  });
  const watch = new ResizeObserver(() =>
    plots.forEach((plot) => plot.setSize({ width: room.clientWidth, height: plot.height })),
  );
  watch.observe(room);
  return {
    plots,
    fill(next) {
      plots.forEach((plot, n) =>
        plot.setData([next.x, ...next.charts[n].series.map((s) => s.values)]),
      );
    },
    end() {
      watch.disconnect();
      plots.forEach((plot) => plot.destroy());
    },
  };
}
