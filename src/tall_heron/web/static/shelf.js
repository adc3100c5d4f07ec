// Sheets that are typed in: a part, or a fuel, of one's own.
import { ask, base, change, trouble } from "./server.js";

export function shelf(Alpine) {
  const sheet = {
    values() {
      const data = {};
      for (const input of this.$root.querySelectorAll("[name]")) if (!input.matches("fieldset[disabled] *")) data[input.name] = input.value;
      return data;
    },
    say(field, message) {
      for (const place of this.$root.querySelectorAll("[data-wrong]")) {
        const mine = place.dataset.wrong === field && !place.closest("fieldset[disabled]");
        place.textContent = mine ? message : "";
        const input = place.closest(".field").querySelector("[name]");
        input.setAttribute("aria-invalid", mine && message ? "true" : "false");
        if (mine && message) input.focus();
      }
    },
  };
  Alpine.data("ownFuel", () => ({
    ...sheet,
    async save() {
      const values = this.values();
      const data = Object.fromEntries(Object.entries(values).map(([name, value]) => [`fuel_${name}`, value]));
      const answer = await change(`${base()}/own-fuel`, data);
      this.say(answer.ok ? "" : answer.field, answer.message || "");
    },
  }));
  Alpine.data("ownEnd", () => ({
    ...sheet,
    saveA() {
      return this.save("a");
    },
    saveB() {
      return this.save("b");
    },
    async save(side) {
      const answer = await change(`${base()}/hose`, { hose: this.$root.dataset.hose, field: `own_${side}`, text: "", ...this.values() });
      if (!answer.ok) this.say(answer.field, answer.message || "");
    },
  }));
  Alpine.data("ownCase", () => ({
    ...sheet,
    async tell(data) {
      const answer = await ask(`${base()}/cases`, data);
      if (answer.ok) location.reload();
      else trouble(answer.message, null);
      return answer;
    },
    press(event) {
      const { act, key } = event.currentTarget.dataset;
      this.tell({ act, key });
    },
    async fitTrial(event) {
      const { part, name } = event.currentTarget.dataset;
      const answer = await ask(`${base()}/fit`, { part, name });
      if (answer.ok) location.href = `${base()}/cases`;
      else trouble(answer.message, null);
    },
    async save() {
      const answer = await this.tell({ act: "add", ...this.values() });
      if (!answer.ok) this.say(answer.field, answer.message || "");
    },
  }));
  Alpine.data("own", () => ({
    ...sheet,
    pick(event) {
      for (const set of this.$root.querySelectorAll("fieldset")) set.hidden = set.disabled = set.dataset.kind !== event.target.value;
    },
    async load(event) {
      const file = event.target.files[0];
      if (!file) return;
      const area = this.$root.querySelector("textarea");
      area.value = file.size > 40000 ? "" : await file.text();
      if (file.size > 40000) this.say("points", `${file.name} is ${Math.round(file.size / 1000)} kB; a pump's sheet has a few dozen points.`);
      else this.preview();
    },
    async preview() {
      const answer = await ask("/shelf/preview", this.values());
      this.say("points", "");
      document.getElementById("preview").innerHTML = answer.piece || "";
    },
    async save() {
      const answer = await ask("/shelf", this.values());
      if (!answer.ok) return this.say(answer.field, answer.message);
      this.say("", "");
      document.getElementById("own-parts").innerHTML = answer.piece;
      document.getElementById("announce").textContent = `${answer.title} is on the shelf`;
    },
  }));
}
