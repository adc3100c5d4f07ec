// A line through corners with true arcs, in the vehicle's frame [mm]: the same geometry as the server's, for what must follow the hand at once.
const less = (a, b) => [a[0] - b[0], a[1] - b[1], a[2] - b[2]];
const plus = (a, b, t = 1) => [a[0] + t * b[0], a[1] + t * b[1], a[2] + t * b[2]];
const dot = (a, b) => a[0] * b[0] + a[1] * b[1] + a[2] * b[2];
export const size = (a) => Math.sqrt(dot(a, a));
const unit = (a) => plus([0, 0, 0], a, 1 / (size(a) || 1));

const MOST_TURN = 3.1; // rad
// The radius of each arc: the line's own where its legs hold it, else as much as they leave.
function fitted(legs, turns, radius) {
  const need = turns.map((t) => radius * Math.tan(Math.min(t, MOST_TURN) / 2));
  const fits = need.map(
    (n, i) =>
      n <= legs[i] - (need[i - 1] || 0) + 1e-9 && n <= legs[i + 1] - (need[i + 1] || 0) + 1e-9,
  );
  return turns.map((t, i) => {
    if (fits[i]) return radius;
    const before = i && fits[i - 1] ? legs[i] - need[i - 1] : legs[i] / (i ? 2 : 1);
    const after = fits[i + 1]
      ? legs[i + 1] - need[i + 1]
      : legs[i + 1] / (i + 1 < turns.length ? 2 : 1);
    return Math.min(
      radius,
      Math.max(Math.min(before, after), 0) / Math.max(Math.tan(Math.min(t, MOST_TURN) / 2), 1e-9),
    );
  });
}

export function curve(a, corners, b, radius) {
  const points = [a, ...corners, b];
  const ways = points.slice(1).map((p, i) => unit(less(p, points[i])));
  const turns = corners.map((_, i) =>
    Math.acos(Math.min(1, Math.max(-1, dot(ways[i], ways[i + 1])))),
  );
  const radii = fitted(
    points.slice(1).map((p, i) => size(less(p, points[i]))),
    turns,
    radius,
  );
  const out = [a];
  corners.forEach((at, i) => {
    const [before, after, turn] = [ways[i], ways[i + 1], turns[i]];
    radius = radii[i];
    if (turn < 1e-3 || turn > MOST_TURN || radius < 0.01) return void out.push(at);
    const tangent = radius * Math.tan(turn / 2);
    const start = plus(at, before, -tangent);
    const inward = unit(less(after, before));
    const middle = plus(at, inward, radius / Math.cos(turn / 2));
    const one = unit(less(start, middle));
    const steps = Math.max(2, Math.ceil(turn / 0.12));
    for (let k = 0; k <= steps; k++) {
      const angle = (turn * k) / steps;
      out.push(plus(plus(middle, one, radius * Math.cos(angle)), before, radius * Math.sin(angle)));
    }
  });
  out.push(b);
  return out;
}

export function lengths(points) {
  let along = 0;
  return points.map((p, i) => (along += i ? size(less(p, points[i - 1])) : 0));
}

export function placeAt(points, s) {
  const along = lengths(points);
  const i = Math.max(
    1,
    along.findIndex((x) => x >= s) === -1 ? along.length - 1 : along.findIndex((x) => x >= s),
  );
  const t = (s - along[i - 1]) / (along[i] - along[i - 1] || 1);
  return plus(points[i - 1], less(points[i], points[i - 1]), Math.min(1, Math.max(0, t)));
}
