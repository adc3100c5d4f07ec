// The cut-off a visitor throws switches on; its twin in the core is walked by tests/browser/test_wiring.py.
import assert from "node:assert/strict";
import { test } from "node:test";

import { begun, nothing, step } from "../../src/tall_heron/web/static/cut-off.js";

const CUT = {
  automatic: true,
  control_unit: true,
  oil_switch: false,
  start_bypass: false,
  crank: true,
  inertia: true,
  roll_over: true,
  level: false,
  prime_s: 2,
  oil_falls_s: 1,
  control_unit_s: 1,
  kill: "none",
  breaks: "feed",
};
const run = (inputs, seconds, s = begun()) => {
  for (let t = 0; t < seconds; t += 0.1) s = step(CUT, s, { ...nothing(), ...inputs });
  return s;
};

test("pumps prime with the ignition and stop when the engine does not turn", () => {
  assert.equal(run({ ignition: true }, 1).pumps, true);
  assert.equal(run({ ignition: true }, 10).pumps, false);
});

test("pumps run while the engine turns, and a crash stops them for good", () => {
  const running = run({ ignition: true, turning: true }, 5);
  assert.equal(running.pumps, true);
  const crashed = run({ ignition: true, turning: true, crash: true }, 1, running);
  assert.equal(crashed.pumps, false);
  assert.equal(run({ ignition: true, turning: true }, 5, crashed).pumps, false);
});
