// Where a name stands beside its dot in a chart.
// The place of a label by its dot that lies on the fewest names and lines, the nearest of such, whole within the room.
export function labelPlace([x, y], [wide, high], one, [left, top, right, bottom], boxes, strokes) {
  let best = null;
  for (const far of [8, 22, 40, 62, 90])
    for (const [dx, dy] of [
      [1, -0.6],
      [1, 1.4],
      [-1, -0.6],
      [-1, 1.4],
      [0, -1],
      [0, 2],
    ]) {
      const a = x + (dx > 0 ? far * one : dx < 0 ? -far * one - wide : -wide / 2);
      const b = y + (dy === 0 ? high / 2 : dy * Math.max(far * one, high));
      if (a < left || a + wide > right || b - high < top || b + 3 * one > bottom) continue;
      const hits = (p, q, r, s) => a < r && a + wide > p && b - high < s && b + 3 * one > q;
      const cost =
        1000 * boxes.filter((box) => hits(...box)).length +
        10 * strokes.filter(([p, q]) => hits(p - 3, q - 3, p + 3, q + 3)).length +
        far;
      if (!best || cost < best[0]) best = [cost, a, b];
    }
  return best ? best.slice(1) : [x, y];
}
