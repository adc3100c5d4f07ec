// From the vehicle to the page and back.
import assert from "node:assert/strict";
import { test } from "node:test";

import { View } from "../../src/tall_heron/web/static/view.js";

const view = (name) =>
  new View({ dataset: { view: name, scale: "0.25", left: "-200", top: "1500" } });

test("a place drawn and read again is where it was", () => {
  for (const name of ["side", "plan", "rear"]) {
    const v = view(name);
    const p = [1234, 321, 456];
    assert.deepEqual(
      v.moved(
        [0, 0, 0].map((_, i) => p[i]),
        v.under(v.at(p)),
      ),
      p,
    );
  }
});

test("the rear view shows the vehicle's right on its left", () => {
  const [left] = view("rear").at([0, 100, 0]);
  const [right] = view("rear").at([0, -100, 0]);
  assert.ok(left < right);
});

test("up is up on the side view", () => {
  assert.ok(view("side").at([0, 0, 500])[1] < view("side").at([0, 0, 100])[1]);
});
