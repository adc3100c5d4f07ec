// The vehicle turned in space: a drawing of lines on a canvas, by pointer or arrow keys.
import { curve } from "./bend.js";

let [yaw, pitch] = [-0.6, 0.45];

export function turning(data) {
  const canvas = document.getElementById("turned");
  if (!canvas || canvas.dataset.on) return;
  canvas.dataset.on = "1";
  const draw = () => paint(canvas, data);
  let from = null;
  canvas.addEventListener("pointerdown", (e) => {
    from = [e.clientX, e.clientY];
    canvas.setPointerCapture(e.pointerId);
  });
  canvas.addEventListener("pointermove", (e) => {
    if (!from) return;
    yaw += (e.clientX - from[0]) * 0.008;
    pitch = Math.min(1.5, Math.max(-0.3, pitch + (e.clientY - from[1]) * 0.008));
    from = [e.clientX, e.clientY];
    draw();
  });
  canvas.addEventListener("pointerup", () => (from = null));
  canvas.addEventListener("keydown", (e) => {
    const step = {
      ArrowLeft: [-0.1, 0],
      ArrowRight: [0.1, 0],
      ArrowUp: [0, 0.1],
      ArrowDown: [0, -0.1],
    }[e.key];
    if (!step) return;
    e.preventDefault();
    e.stopPropagation();
    yaw += step[0];
    pitch = Math.min(1.5, Math.max(-0.3, pitch + step[1]));
    draw();
  });
  draw();
  document.fonts.load("700 16px 'Sofia Sans Condensed'").then(draw);
}

const BOX = [
  [0, 1],
  [1, 3],
  [3, 2],
  [2, 0],
  [4, 5],
  [5, 7],
  [7, 6],
  [6, 4],
  [0, 4],
  [1, 5],
  [2, 6],
  [3, 7],
];
const corners = (low, high) =>
  [0, 1, 2, 3, 4, 5, 6, 7].map((k) => [
    k & 1 ? high[0] : low[0],
    k & 2 ? high[1] : low[1],
    k & 4 ? high[2] : low[2],
  ]);

function paint(canvas, data) {
  const pen = canvas.getContext("2d");
  const style = getComputedStyle(document.documentElement);
  const ink = (name) => style.getPropertyValue(`--${name}`).trim();
  const middle = data.size.map((v, i) => (i === 1 ? 0 : v / 2));
  const scale =
    Math.min((canvas.width * 0.95) / data.size[0], canvas.height / (0.8 * data.size[0])) * 0.95;
  const at = (p) => {
    const [x, y, z] = p.map((v, i) => v - middle[i]);
    const across = x * Math.cos(yaw) - y * Math.sin(yaw);
    const deep = x * Math.sin(yaw) + y * Math.cos(yaw);
    return [
      canvas.width / 2 + across * scale,
      canvas.height / 2 - (z * Math.cos(pitch) + deep * Math.sin(pitch)) * scale,
    ];
  };
  const stroke = (points, colour, wide, dash = []) => {
    pen.strokeStyle = colour;
    pen.lineWidth = wide;
    pen.setLineDash(dash);
    pen.beginPath();
    points.map(at).forEach(([x, y], i) => (i ? pen.lineTo(x, y) : pen.moveTo(x, y)));
    pen.stroke();
  };
  const box = (low, high, colour, wide) =>
    BOX.forEach(([a, b]) => stroke([corners(low, high)[a], corners(low, high)[b]], colour, wide));
  const names = [];
  pen.clearRect(0, 0, canvas.width, canvas.height);
  for (const shape of data.side)
    stroke(
      [...shape, shape[0]].map(([x, z]) => [x, 0, z]),
      ink("paper-3"),
      2,
    );
  for (const shape of data.plan)
    for (const side of [1, -1])
      stroke(
        shape.map(([x, y]) => [x, side * y, data.size[2] * 0.35]),
        ink("paper-3"),
        2,
      );
  for (const zone of data.zones) {
    const r = zone.shape === "cylinder" ? zone.r : 0;
    box(
      zone.low.map((v, i) => Math.min(v, zone.high[i]) - r),
      zone.high.map((v, i) => Math.max(v, zone.low[i]) + r),
      zone.kind === "hot" ? ink("rust") : ink("p3"),
      0.8,
    );
  }
  for (const part of data.boxes) {
    const quarter = Math.round(part.yaw / 90) % 2;
    const half = (quarter ? [part.size[1], part.size[0], part.size[2]] : part.size).map(
      (v) => v / 2,
    );
    box(
      part.at.map((v, i) => v - half[i]),
      part.at.map((v, i) => v + half[i]),
      ink("ink-2"),
      1.4,
    );
    if (half[0] > 55) names.push({ text: part.id, at: at(part.at), ink: ink("ink-2") });
  }
  const dashes = { return: [14, 6], vent: [2, 6], reference: [4, 4] };
  for (const [id, line] of Object.entries(data.lines)) {
    if (line.inside) continue;
    const points = curve(line.a, line.corners, line.b, line.r);
    stroke(points, ink("ink"), line.role === "suction" ? 5 : 3, dashes[line.role] || []);
    if (line.role === "suction") stroke(points, ink("paper"), 2);
    names.push({ text: id, at: at(points[Math.floor(points.length / 2)]), ink: ink("ink") });
  }
  write(pen, names, ink("paper"));
}

// Names last, on paper of their own, each at the nearest place where none stands yet.
function write(pen, names, paper) {
  const taken = [];
  pen.font = "700 16px 'Sofia Sans Condensed'";
  pen.textAlign = "center";
  pen.textBaseline = "middle";
  pen.lineJoin = "round";
  pen.setLineDash([]);
  for (const name of names) {
    const half = [pen.measureText(name.text).width / 2 + 2, 9];
    const free = ([x, y]) =>
      taken.every(
        (t) => Math.abs(t.x - x) >= t.half[0] + half[0] || Math.abs(t.y - y) >= t.half[1] + half[1],
      );
    const places = AROUND.map(([dx, dy]) => [name.at[0] + dx, name.at[1] + dy]);
    const [x, y] = places.find(free) || places[0];
    taken.push({ x, y, half });
    pen.strokeStyle = paper;
    pen.lineWidth = 5;
    pen.strokeText(name.text, x, y);
    pen.fillStyle = name.ink;
    pen.fillText(name.text, x, y);
  }
}
const AROUND = [
  [14, -12],
  [-14, -12],
  [14, 14],
  [-14, 14],
  [0, -24],
  [0, 26],
  [30, 0],
  [-30, 0],
];
