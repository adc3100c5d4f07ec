// The simulator of station 7: switches one can throw, the machine behind them, and a record of what happened.
import { begin } from "./parts.js";
import { TICK, begun, nothing, step } from "./cut-off.js";

const MOST = 40; // lines of the record

function cutOff(Alpine) {
  Alpine.data("cutOff", () => ({
    mode: "off",
    pumps: false,
    why: "ignition off",
    clock: "0.0",
    held: false,
    record: [],
    init() {
      this.begin();
      this.timer = setInterval(() => !this.held && this.forward(1), TICK * 1000);
    },
    destroy() {
      clearInterval(this.timer);
    },
    begin() {
      this.cut = JSON.parse(this.$root.dataset.cut);
      Object.assign(this, { ticks: 0, state: begun(), inputs: nothing(), fault: "", record: [] });
      for (const lever of this.$root.querySelectorAll(".lever"))
        lever.setAttribute("aria-checked", "false");
      this.$root.querySelector("#fault").value = "";
      this.show();
    },
    forward(ticks) {
      for (let i = 0; i < ticks; i++) {
        const before = this.state;
        this.state = step(this.cut, before, this.inputs, this.fault);
        this.inputs.reset = false;
        this.ticks += 1;
        if (before.pumps !== this.state.pumps || before.mode !== this.state.mode)
          this.write(`pumps ${this.state.pumps ? "run" : "stand"}: ${this.state.why}`);
      }
      this.show();
    },
    show() {
      const { mode, pumps, why } = this.state;
      Object.assign(this, { mode, pumps, why, clock: (this.ticks * TICK).toFixed(1) });
    },
    write(text) {
      this.record = [
        { at: this.ticks, text: `${(this.ticks * TICK).toFixed(1)} s  ${text}` },
        ...this.record,
      ].slice(0, MOST);
    },
    throwIt(event) {
      const lever = event.currentTarget;
      const name = lever.dataset.input;
      const on = !this.inputs[name];
      this.set(name, on);
      if (on && name === "turning") this.set("cranking", false);
      if (on && name === "cranking") this.set("turning", false);
      if (on && (name === "turning" || name === "cranking")) this.set("ignition", true);
      if (!on && name === "ignition")
        for (const other of ["turning", "cranking"]) this.set(other, false);
      this.write(`${lever.textContent.trim().toLowerCase()} ${on ? "on" : "off"}`);
      this.forward(1);
    },
    set(name, on) {
      this.inputs[name] = on;
      const lever = this.$root.querySelector(`[data-input="${name}"]`);
      if (lever) lever.setAttribute("aria-checked", on ? "true" : "false");
    },
    reset() {
      for (const name of ["crash", "rolled"]) this.set(name, false);
      this.inputs.reset = true;
      this.write("reset by hand");
      this.forward(1);
    },
    chooseFault(event) {
      this.fault = event.currentTarget.value;
      this.write(this.fault ? `fault: ${this.fault}` : "no fault");
      this.forward(1);
    },
    hold() {
      this.held = !this.held;
    },
    second() {
      this.held = true;
      this.forward(Math.round(1 / TICK));
    },
  }));
}

begin(cutOff);
