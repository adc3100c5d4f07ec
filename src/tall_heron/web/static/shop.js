// Stations 6 and 7: forms, choices and buttons of bench and wiring. Each tells one act; the pieces that changed come back.
import { begin } from "./parts.js";
import { base, page, send, trouble } from "./server.js";
import { sheet } from "./sheet.js";

// What is written on an element beside its act: the rest of what the act needs.
function told(element) {
  const { act, ...rest } = element.dataset;
  return { act, ...rest };
}

// Bench and wiring take their acts in the same way, each at its own address.
const address = () => `${base()}/${page().page}/act`;

// What was refused, said; where it came too late, with a button that does it on top of what came before.
function refused(answer, again) {
  const onTop = () => {
    page().head = answer.head;
    again();
  };
  trouble(answer.message || "That was not done.", answer.overtaken ? onTop : null);
}

async function tell(data) {
  const answer = await send(address(), data);
  if (!answer.ok) refused(answer, () => tell(data));
  return answer;
}

export function shopParts() {
  return {
    ...sheet,
    press(event) {
      return tell(told(event.currentTarget));
    },
    pick(event) {
      const { name, ...rest } = told(event.currentTarget);
      return tell({ ...rest, [name]: event.currentTarget.value });
    },
    underway: "",
    // Enter in a field that is kept as soon as it changes asks twice for the same.
    async save() {
      const root = this.$root;
      const data = { ...told(root), ...this.values() };
      if (this.underway === JSON.stringify(data)) return;
      this.underway = JSON.stringify(data);
      const answer = await send(address(), data);
      this.underway = "";
      if (answer.ok) return;
      const places = [...root.querySelectorAll("[data-wrong]")].map((place) => place.dataset.wrong);
      if (!answer.overtaken && places.includes(answer.field))
        this.say(answer.field, answer.message || "");
      else refused(answer, () => this.save());
    },
    // Arrows move a part on its plate: 5 mm, with Shift 50, with Alt 1.
    nudge(event) {
      const by = { ArrowUp: 1, ArrowDown: -1 }[event.key];
      const value = Number.parseFloat(event.currentTarget.value);
      if (!by || Number.isNaN(value)) return;
      event.preventDefault();
      event.currentTarget.value = String(value + by * (event.shiftKey ? 50 : event.altKey ? 1 : 5));
      this.save();
    },
  };
}

function shop(Alpine) {
  const parts = shopParts;
  Alpine.data("shop", parts);
  // Which parts could take the chosen one's place: the others are not shown.
  Alpine.data("later", () => ({
    ...parts(),
    part: "",
    all: [],
    init() {
      this.all = [...this.$root.querySelector("[name=later]").options];
      this.part = this.$root.querySelector("[name=part]").value;
      this.$watch("part", () => this.narrow());
      this.narrow();
    },
    narrow() {
      const select = this.$root.querySelector("[name=later]");
      select.replaceChildren(...this.all.filter((option) => option.dataset.part === this.part));
      select.selectedIndex = 0;
    },
  }));
}

begin(shop);
