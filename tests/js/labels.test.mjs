// Names in a chart keep off one another, off the lines, and inside.
import assert from "node:assert/strict";
import { test } from "node:test";
import { labelPlace } from "../../src/tall_heron/web/static/labels.js";

const ROOM = [0, 0, 400, 300];
const SIZE = [80, 15];

test("ten names at one dot stand apart and whole", () => {
  const boxes = [[194, 144, 206, 156]];
  for (let i = 0; i < 10; i++) {
    const [x, y] = labelPlace([200, 150], SIZE, 1, ROOM, boxes, []);
    const box = [x, y - 15, x + 80, y + 3];
    for (const [a, b, c, d] of boxes)
      assert.ok(
        box[0] >= c || box[2] <= a || box[1] >= d || box[3] <= b,
        `${box} on ${[a, b, c, d]}`,
      );
    assert.ok(x >= 0 && x + 80 <= 400 && y - 15 >= 0 && y <= 300);
    boxes.push(box);
  }
});

test("a name keeps off a line that passes its dot", () => {
  const line = Array.from({ length: 60 }, (_, i) => [i * 7, 150 - (i - 28) * 3]);
  const [x, y] = labelPlace([200, 150], SIZE, 1, ROOM, [], line);
  const on = line.filter(([a, b]) => a > x && a < x + 80 && b > y - 15 && b < y);
  assert.equal(on.length, 0);
});

test("at the edge a name turns inward", () => {
  const [x] = labelPlace([398, 20], SIZE, 1, ROOM, [], []);
  assert.ok(x + 80 <= 400);
});
