// Sheets that are typed in: a part, or a fuel, of one's own.
import { begin } from "./parts.js";
import { ask, base, change, raw, trouble } from "./server.js";
import { sheet } from "./sheet.js";

function shelf(Alpine) {
  Alpine.data("ownFuel", () => ({
    ...sheet,
    async save() {
      const values = this.values();
      const data = Object.fromEntries(
        Object.entries(values).map(([name, value]) => [`fuel_${name}`, value]),
      );
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
      const answer = await change(`${base()}/hose`, {
        hose: this.$root.dataset.hose,
        field: `own_${side}`,
        text: "",
        ...this.values(),
      });
      if (!answer.ok) this.say(answer.field, answer.message || "");
    },
  }));
  Alpine.data("pack", () => ({
    file: null,
    async look(event) {
      this.file = event.target.files[0] || null;
      if (this.file) await this.send("/shelf/pack");
    },
    async take() {
      const answer = await this.send("/shelf/pack?take=1");
      if (!answer.own) return;
      document.getElementById("own-parts").innerHTML = answer.own;
      document.getElementById("announce").textContent = `${answer.taken} parts taken`;
    },
    async send(path) {
      const answer = await raw(path, this.file);
      document.getElementById("pack-says").innerHTML = answer.piece || "";
      if (!answer.piece) trouble(answer.message);
      return answer;
    },
  }));
  Alpine.data("suppliers", () => ({
    ...sheet,
    async keep(event) {
      this.shown(
        await ask("/shelf/suppliers", Object.fromEntries(new FormData(event.target))),
        (answer) => `${answer.name} is kept`,
      ) && event.target.reset();
    },
    async feed(event) {
      const { files, dataset } = event.target;
      if (files[0])
        this.shown(
          await raw(`/shelf/suppliers/list?name=${encodeURIComponent(dataset.supplier)}`, files[0]),
          (answer) => `${answer.taken} items read`,
        );
    },
    async forget(event) {
      this.shown(
        await ask("/shelf/suppliers/off", { name: event.target.dataset.supplier }),
        () => "Forgotten",
      );
    },
    shown(answer, words) {
      this.say(answer.ok ? "" : answer.field, answer.message || "");
      if (!answer.ok) return false;
      document.getElementById("suppliers").innerHTML = answer.piece;
      document.getElementById("announce").textContent = words(answer);
      return true;
    },
  }));
  Alpine.data("own", () => ({
    ...sheet,
    pick(event) {
      for (const set of this.$root.querySelectorAll("fieldset"))
        set.hidden = set.disabled = set.dataset.kind !== event.target.value;
    },
    async load(event) {
      const file = event.target.files[0];
      if (!file) return;
      const area = this.$root.querySelector("fieldset:not([disabled]) textarea");
      area.value = file.size > 40000 ? "" : await file.text();
      if (file.size > 40000)
        this.say(
          "points",
          `${file.name} is ${Math.round(file.size / 1000)} kB; a pump's sheet has a few dozen points.`,
        );
      else this.preview();
    },
    async preview() {
      const answer = await ask("/shelf/preview", this.values());
      this.say("points", "");
      document.getElementById("preview").innerHTML = answer.piece || "";
    },
    twin: false,
    edits: "",
    init() {
      window.addEventListener("open-own", (event) => this.open(event.detail));
    },
    // A part that is on the shelf, as it was typed: to change it, or for one like it.
    open({ name, typed }) {
      const texts = JSON.parse(typed);
      const form = this.$root;
      form.reset();
      this.fill(texts.kind, texts);
      this.edits = name || "";
      this.say("", "");
      document.getElementById("own-says").textContent = name
        ? `Editing ${texts.title}`
        : `A copy of ${texts.title}: call it otherwise`;
      form.elements.title.focus();
    },
    fill(kind, texts) {
      const form = this.$root;
      form.elements.kind.value = kind;
      this.pick({ target: form.elements.kind });
      for (const input of form.querySelectorAll("[name]")) {
        if (
          input.matches("fieldset[disabled] *") ||
          !(input.name in texts) ||
          input.type === "file" ||
          input.name === "kind"
        )
          continue;
        input.value = texts[input.name];
        if (input.value) input.closest("details")?.setAttribute("open", "");
      }
      if (form.querySelector("fieldset:not([disabled]) textarea")) this.preview();
    },
    // What a pasted sheet says goes under the fields; what was typed there already gives way only where the sheet speaks of it.
    async paste(event) {
      const says = document.getElementById("own-sheet-read");
      says.textContent = "";
      if (!event.target.value.trim()) return;
      const answer = await ask("/shelf/sheet", {
        sheet: event.target.value,
        kind: this.$root.elements.kind.value,
      });
      if (!answer.ok) return this.say(answer.field, answer.message);
      this.say("", "");
      if (answer.kind) this.fill(answer.kind, answer.texts);
      const count = Object.keys(answer.texts).length;
      says.textContent = `${count} ${count === 1 ? "figure" : "figures"} read${answer.unread.length ? `; not understood: ${answer.unread.join(" · ")}` : ""}. Look it over and put it on the shelf.`;
    },
    saveSecond() {
      return this.save("yes");
    },
    // Kept, said, and emptied for the next of its kind.
    async save(second) {
      const answer = await ask("/shelf", {
        ...this.values(),
        ...(this.edits ? { edits: this.edits } : {}),
        ...(second === "yes" ? { second } : {}),
      });
      const says = document.getElementById("own-says");
      this.twin = answer.field === "second";
      if (!answer.ok) {
        says.textContent = "";
        return this.say(answer.field, answer.message);
      }
      this.say("", "");
      this.edits = "";
      const kind = this.$root.elements.kind.value;
      this.$root.reset();
      this.$root.elements.kind.value = kind;
      document.getElementById("own-sheet-read").textContent = "";
      document.getElementById("preview").innerHTML = "";
      document.getElementById("own-parts").innerHTML = answer.piece;
      says.textContent = document.getElementById("announce").textContent =
        `${answer.title} is ${answer.edited ? "changed" : "on the shelf"}`;
    },
  }));
}

begin(shelf);
