// A field: what was typed is read, kept or refused beside it, and never lost.
import { begin } from "./parts.js";
import { ask, base, page, send } from "./server.js";

function fieldParts(save, always) {
  return {
    text: "",
    kept: "",
    sent: null,
    underway: false,
    reads: "",
    message: "",
    invalid: "false",
    stale: 0,
    guess: false,
    init() {
      this.guess = this.$root.dataset.guess === "yes";
      this.text = this.kept = this.$root.dataset.text;
      this.preview();
    },
    async preview() {
      const { quantity, unit, shown } = this.$root.dataset;
      if (!quantity) return;
      const asked = this.text;
      if (!asked.trim() || asked.trim().endsWith(` ${shown}`)) {
        this.reads = "";
        return;
      }
      const answer = await ask(
        `/convert?${new URLSearchParams({ text: asked, quantity, unit, shown })}`,
      );
      if (asked === this.text) this.reads = answer.ok && answer.shown ? `= ${answer.shown}` : "";
    },
    async commit(event) {
      // Enter sends, and leaving the field sends what Enter has not sent already; the same is never underway twice.
      if (this.text === this.sent && (this.underway || event.type === "change")) return;
      if (this.text === this.kept && !always) {
        this.message = "";
        this.invalid = "false";
        return;
      }
      const sent = (this.sent = this.text);
      this.stale = 0;
      this.underway = true;
      const answer = await save(this, sent);
      this.underway = false;
      if (answer.overtaken) this.stale = answer.head;
      if (answer.ok) {
        this.message = "";
        this.invalid = "false";
        if (this.text === sent) this.kept = sent;
      } else {
        this.message = answer.message || "That was not kept.";
        this.invalid = "true";
      }
    },
    onTop(event) {
      page().head = this.stale;
      this.commit(event);
    },
    refresh(event) {
      const now = event.detail[this.$root.dataset.field];
      this.guess = event.detail.assumed.includes(this.$root.dataset.field);
      if (now === undefined || this.invalid === "true") return;
      const mine = this.text === this.kept;
      this.kept = now;
      if (mine || this.text === now) this.text = now;
      this.preview();
    },
  };
}

function fields(Alpine) {
  Alpine.data("field", () =>
    fieldParts(async (field, text) => {
      const answer = await send(`${base()}/brief`, { field: field.$root.dataset.field, text });
      if (answer.ok) {
        field.kept = text;
        field.text = answer.fields[field.$root.dataset.field];
        field.kept = field.text;
        field.preview();
      }
      return answer;
    }),
  );
  Alpine.data("hoseField", () =>
    fieldParts((field, text) =>
      send(`${base()}/hose`, {
        hose: field.$root.dataset.hose,
        field: field.$root.dataset.field,
        text,
      }),
    ),
  );
  Alpine.data("heightField", () =>
    fieldParts((field, text) => {
      const { at, act, port } = field.$root.dataset;
      return send(`${base()}/rework`, { at, act, value: port ? `${port} ${text}` : text });
    }),
  );
  Alpine.data("price", () =>
    fieldParts((field, text) => send(`${base()}/price`, { fuel: field.$root.dataset.fuel, text })),
  );
  Alpine.data("acceptField", () =>
    fieldParts((field, text) => {
      const { rule, part } = field.$root.dataset;
      return send(`${base()}/accept`, { rule, part_found: part, text });
    }, true),
  );
  Alpine.data("foldsOnceSeen", () => ({
    init() {
      const seen = `seen ${this.$root.dataset.seen}`;
      if (localStorage.getItem(seen)) this.$root.open = false;
      localStorage.setItem(seen, "yes");
    },
  }));
  Alpine.data("line", () => ({
    said: "",
    asked: "",
    example(event) {
      const input = document.getElementById("new-name");
      input.value = event.currentTarget.dataset.line;
      input.dispatchEvent(new Event("input"));
      input.focus();
    },
    async read(event) {
      const text = event.target.value;
      const answer = await ask(`/read-line?${new URLSearchParams({ text })}`);
      if (text !== event.target.value || !answer.ok) return;
      this.said = answer.said ? `Reads as ${answer.said}.` : "";
      this.asked = answer.asked ? `To be asked about: ${answer.asked}.` : "";
    },
  }));
}

begin(fields);
