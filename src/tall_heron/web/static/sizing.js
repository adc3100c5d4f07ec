// Sizes looked for while one watches, and fitted as one act.
import { base, change, follow, page, put } from "./server.js";

let asked = 0;
// The layouts, each sized in its turn; a later question ends an earlier one.
export async function sizeLayouts() {
  const says = document.getElementById("sizing-says");
  if (!says) return;
  const turn = ++asked;
  const head = page().head;
  says.textContent = "Sizing each layout…";
  const hear = (report) => {
    if (report.of) document.getElementById("sizing-says").textContent = `Sizing each layout: ${report.sized} of ${report.of}…`;
    else if (page().head === head) put({ pieces: { choices: report.piece }, head });
  };
  await follow(`${base()}/layout/sized`, {}, hear, () => turn !== asked || page().head !== head);
}

// Whether nothing of the table is sized yet: then it begins by itself.
export function sizesWanted() {
  const says = document.getElementById("sizing-says");
  return Boolean(says && says.dataset.unsized && !document.getElementById("size-on"));
}

export function sizing(Alpine) {
  Alpine.data("sizing", () => ({
    said: "",
    ready: false,
    both: false,
    partly: false,
    chosen: {},
    turn: 0,
    init() {
      this.look();
    },
    longer() {
      this.look(true);
    },
    async look(longer) {
      const keep = [...this.$root.querySelectorAll("[name=keep]:checked")].flatMap((box) => box.value.split(" "));
      const turn = ++this.turn; // a later wish ends an earlier search
      this.said = "Going through the shelf…";
      this.ready = this.both = this.partly = false;
      const data = { by: document.getElementById("size-by").value, keep, longer: longer === true };
      const refused = await follow(`${base()}/size`, data, (report) => this.hear(report), () => turn !== this.turn);
      if (refused) this.said = refused;
    },
    hear(report) {
      if (report.looked) this.said = `Going through the shelf: ${report.looked} choices looked at…`;
      if (report.message) this.said = report.message;
      if (!report.piece) return;
      document.getElementById("proposal").innerHTML = report.piece;
      this.chosen = report.chosen;
      const changes = (of) => Object.keys(of.parts).length > 0;
      this.both = Boolean(report.chosen.later && changes(report.chosen.later));
      this.ready = changes(report.chosen.now);
      this.partly = !report.complete;
      this.said = this.ready || this.both ? "" : "Nothing better than what is fitted.";
    },
    fitNow() {
      return this.fit(this.chosen.now);
    },
    fitLater() {
      return this.fit(this.chosen.later);
    },
    async fit(chosen) {
      const answer = await change(`${base()}/size/fit`, { chosen });
      if (answer.ok) location.href = `${base()}/circuit`;
    },
  }));
}
