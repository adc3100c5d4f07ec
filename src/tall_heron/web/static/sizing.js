// Sizes looked for while one watches, and fitted as one act.
import { begin } from "./parts.js";
import { base, change, follow, page, put } from "./server.js";

let asked = 0;
// The layouts, each made in its turn and shown in its place as it comes; a later question ends an earlier one.
export async function sizeLayouts() {
  const says = document.getElementById("sizing-says");
  if (!says) return;
  const turn = ++asked;
  const head = page().head;
  says.textContent = "Laying out each…";
  const hear = (report) => {
    if (page().head !== head) return;
    if (report.piece) return void put({ pieces: { choices: report.piece }, head });
    document.getElementById("sizing-says").textContent =
      `Laying out each: ${report.sized} of ${report.of}…`;
    const place = document.getElementById(report.id);
    if (place) place.outerHTML = report.row;
  };
  await follow(`${base()}/layout/sized`, {}, hear, () => turn !== asked || page().head !== head);
}

// Whether some of the table are still to come: then it begins by itself.
export function sizesWanted() {
  const says = document.getElementById("sizing-says");
  return Boolean(says && says.dataset.unsized);
}

function sizing(Alpine) {
  Alpine.data("sizing", () => ({
    said: "",
    ready: false,
    both: false,
    chosen: {},
    turn: 0,
    init() {
      this.look();
    },
    async look() {
      const keep = [...this.$root.querySelectorAll("[name=keep]:checked")].flatMap((box) =>
        box.value.split(" "),
      );
      const turn = ++this.turn; // a later wish ends an earlier search
      this.said = "Going through the shelf…";
      this.ready = this.both = false;
      const data = { by: document.getElementById("size-by").value, keep };
      const refused = await follow(
        `${base()}/size`,
        data,
        (report) => this.hear(report),
        () => turn !== this.turn,
      );
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

begin(sizing);
