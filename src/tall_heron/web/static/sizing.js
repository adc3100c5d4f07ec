// Sizes looked for while one watches, and fitted as one act.
import { base, change, csrf } from "./server.js";

export function sizing(Alpine) {
  Alpine.data("sizing", () => ({
    said: "",
    ready: false,
    chosen: {},
    turn: 0,
    init() {
      this.look();
    },
    async look() {
      const keep = [...this.$root.querySelectorAll("[name=keep]:checked")].flatMap((box) => box.value.split(" "));
      const turn = ++this.turn; // a later wish ends an earlier search
      this.said = "Going through the shelf…";
      this.ready = false;
      const options = { method: "POST", headers: { Accept: "application/json", "Content-Type": "application/json", "X-CSRFToken": csrf() } };
      const response = await fetch(`${base()}/size`, { ...options, body: JSON.stringify({ by: document.getElementById("size-by").value, keep }) });
      if (!response.ok) return void (this.said = (await response.json()).message);
      const reader = response.body.pipeThrough(new TextDecoderStream()).getReader();
      let rest = "";
      for (;;) {
        const { done, value } = await reader.read();
        if (turn !== this.turn) return void reader.cancel();
        if (done) break;
        const lines = (rest + value).split("\n");
        rest = lines.pop();
        for (const line of lines) this.hear(JSON.parse(line));
      }
    },
    hear(report) {
      if (report.looked) this.said = `Going through the shelf: ${report.looked} choices looked at…`;
      if (report.message) this.said = report.message;
      if (!report.piece) return;
      document.getElementById("proposal").innerHTML = report.piece;
      this.chosen = report.chosen;
      this.ready = Object.keys(report.chosen).length > 0;
      this.said = this.ready ? "" : "Nothing better than what is fitted.";
    },
    async fitAll() {
      const answer = await change(`${base()}/size/fit`, { chosen: this.chosen });
      if (answer.ok) location.href = `${base()}/circuit`;
    },
  }));
}
