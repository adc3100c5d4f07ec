// What lets pumps run and what stops them: the twin of core/electrics/cut_off.py, held to it by a test. Time is counted in whole ticks.
export const TICK = 0.1;
const NEVER = 1e6;

export const begun = () => ({
  mode: "off",
  pumps: false,
  why: "ignition off",
  on: 0,
  still: NEVER,
  turned: false,
  latched: "",
});
export const nothing = () => ({
  ignition: false,
  cranking: false,
  turning: false,
  oil_lost: false,
  crash: false,
  rolled: false,
  killed: false,
  empty: false,
  override: false,
  reset: false,
});

const ticks = (seconds) => Math.floor(seconds / TICK + 0.5);

function latches(cut, s, x, fault) {
  if (s.latched) return x.reset && !x.crash && !x.rolled ? "" : s.latched;
  if (!cut.automatic) return "";
  if (x.crash && cut.inertia && fault !== "inertia switch stuck") return "inertia switch";
  return x.rolled && cut.roll_over && fault !== "roll-over switch stuck" ? "roll-over switch" : "";
}

function asked(cut, s, x, ignition, fault) {
  if (!cut.automatic)
    return ignition
      ? ["run", true, "its own switch is on; nothing automatic stops it"]
      : ["off", false, "its own switch is off"];
  if (s.latched) return ["latched", false, `${s.latched} has opened, until it is reset by hand`];
  if (x.killed && cut.kill !== "none" && !(cut.kill === "battery" && x.turning))
    return ["stopped", false, "the kill switch is pulled"];
  if (!ignition) return ["off", false, "ignition off"];
  if (x.override) return ["run", true, "override held: it says so in the record"];
  if (x.empty && cut.level) return ["stopped", false, "the level switch says empty"];
  if (x.cranking && cut.crank && (cut.start_bypass || !cut.oil_switch))
    return ["crank", true, "the starter turns"];
  const signals = [];
  if (cut.oil_switch)
    signals.push([
      "oil pressure",
      (s.still <= ticks(cut.oil_falls_s) && !x.oil_lost) || fault === "oil switch stuck",
    ]);
  if (cut.control_unit)
    signals.push([
      "the control unit",
      s.still <= ticks(cut.control_unit_s) ||
        fault === "control unit stuck" ||
        (x.cranking && s.turned),
    ]);
  const all = signals.every(([, on]) => on);
  if (signals.length && all && (s.turned || fault))
    return [
      "run",
      true,
      signals.map(([name]) => name).join(" and ") + (signals.length > 1 ? " say so" : " says so"),
    ];
  if (!signals.length) return ["run", true, "the ignition is on, and nothing else is asked"];
  if (!s.turned && s.on <= ticks(cut.prime_s))
    return ["prime", true, `prime, ${cut.prime_s} s from the ignition`];
  const lacks =
    signals
      .filter(([, on]) => !on)
      .map(([name]) => name)
      .join(", ") || "an engine that has turned";
  return ["stopped", false, `no ${lacks}`.replaceAll("no the ", "not the ")];
}

export function step(cut, s, x, fault = "") {
  const ignition = x.ignition || fault === "ignition stuck on";
  const next = {
    ...s,
    on: ignition ? s.on + 1 : 0,
    still: x.turning ? 0 : Math.min(s.still + 1, NEVER),
    turned: ignition && (s.turned || x.turning),
    latched: latches(cut, s, x, fault),
  };
  const [mode, coil, because] = asked(cut, next, x, ignition, fault);
  const dead =
    x.killed && (cut.kill === "battery and alternator" || (cut.kill === "battery" && !x.turning));
  let closed = coil;
  let why = because;
  if (fault === "relay dead" || fault === "coil wire off") {
    closed = false;
    if (coil) why = `${fault}: nothing closes the relay`;
  } else if (fault === "relay welded") {
    closed = true;
    if (!coil) why = "the relay is welded: its contact stays closed";
  } else if (fault === "87a used") {
    closed = !coil;
    why = coil
      ? "87a is open while the coil is fed"
      : "the pump hangs at 87a, which is live at rest";
  }
  if (closed && dead) [closed, why] = [false, "the kill switch has taken all current away"];
  else if (closed && next.latched && cut.breaks === "supply")
    [closed, why] = [false, `${next.latched}: the supply is broken until it is reset by hand`];
  return { ...next, mode, pumps: closed, why };
}
