// A line with true arcs, against the geometry of a tangent circle worked by hand.
import assert from "node:assert/strict";
import { test } from "node:test";

import { curve, lengths, placeAt } from "../../src/tall_heron/web/static/bend.js";

const along = (points) => lengths(points).at(-1);

test("a right angle of radius R is shorter than its corner by (2 - pi/2) R", () => {
  const points = curve([0, 0, 0], [[1000, 0, 0]], [1000, 800, 0], 100);
  assert.ok(Math.abs(along(points) - (1800 - (2 - Math.PI / 2) * 100)) < 0.2);
});

test("an arc keeps its radius from its middle", () => {
  const points = curve([0, 0, 0], [[1000, 0, 0]], [1000, 800, 0], 100);
  const arc = points.slice(1, -1);
  for (const p of arc) assert.ok(Math.abs(Math.hypot(p[0] - 900, p[1] - 100) - 100) < 1e-6);
});

test("where the legs are too short the arc is as large as they leave", () => {
  const points = curve([0, 0, 0], [[50, 0, 0]], [50, 50, 0], 100);
  for (const p of points) assert.ok(p[0] > -1e-9 && p[0] < 50 + 1e-9);
});

test("a place along a line lies that far from its start", () => {
  const points = [
    [0, 0, 0],
    [300, 0, 0],
    [300, 400, 0],
  ];
  assert.deepEqual(placeAt(points, 500), [300, 200, 0]);
});
