// A logger's file: brought in, asked about where its headers leave something open, replayed with its progress shown, and looked at.
import { begin } from "./parts.js";
import { linked } from "./linked.js";
import { ask, base, raw, trouble } from "./server.js";

const PAUSE = 200; // ms between looks at how far it is

const option = (value, text, chosen) => {
  const made = document.createElement("option");
  made.value = value;
  made.textContent = text;
  made.selected = value === chosen;
  return made;
};

function replay(Alpine) {
  Alpine.data("replay", () => ({
    job: "",
    async init() {
      const { file, ready } = this.$root.dataset;
      if (ready) this.draw();
      else if (file) this.run(file, this.$root.dataset.name);
    },
    wrong(message) {
      const place = this.$root.querySelector("[data-wrong=log]");
      if (place) place.textContent = message || "";
      this.show("[data-progress]", false);
    },
    show(what, shown) {
      const place = this.$root.querySelector(what);
      if (place) place.hidden = !shown;
    },
    async bring(event) {
      const file = event.currentTarget.files[0];
      if (!file) return;
      this.wrong("");
      this.show("[data-asks]", false);
      const answer = await raw(`${base()}/prove/log`, file);
      if (!answer.ok) return this.wrong(answer.message);
      this.name = file.name.replace(/\.[^.]*$/, "").slice(0, 80);
      this.sha256 = answer.sha256;
      if (answer.asks) this.askColumns(answer.columns);
      else this.run(answer.sha256, this.name);
    },
    // What was read how is said anew, and the run replayed.
    again() {
      this.sha256 = this.$root.dataset.file;
      this.name = this.$root.dataset.name;
      this.askColumns(JSON.parse(this.$root.querySelector("[data-columns]").textContent));
      this.$root.querySelector("[data-asks]").scrollIntoView({ block: "start" });
    },
    // A row for each header: what it holds, in which unit, what a pressure counts from. What the file does not say is marked.
    askColumns(columns) {
      const choices = JSON.parse(this.$root.querySelector("[data-choices]").textContent);
      const body = this.$root.querySelector(".ask-columns tbody");
      body.replaceChildren();
      for (const column of columns) {
        const row = document.createElement("tr");
        row.dataset.header = column.header;
        if (column.asks.length) row.className = "asks";
        const head = document.createElement("th");
        head.scope = "row";
        head.className = "words";
        head.textContent = column.header;
        if (column.why)
          head.append(
            Object.assign(document.createElement("small"), { textContent: ` ${column.why}` }),
          );
        const holds = document.createElement("select");
        holds.setAttribute("aria-label", `${column.header} holds`);
        holds.append(
          option("", "nothing that is read", column.key),
          ...choices.columns.map(([key, words]) => option(key, words, column.key)),
        );
        const unit = document.createElement("select");
        unit.setAttribute("aria-label", `${column.header} in`);
        const counts = document.createElement("select");
        counts.setAttribute("aria-label", `${column.header} counts`);
        const fill = () => {
          const quantity = choices.quantities[holds.value];
          unit.replaceChildren(
            ...(choices.units[quantity] || []).map(([word, label]) =>
              option(word, label, column.unit || ""),
            ),
          );
          counts.replaceChildren(
            ...(quantity === "pressure"
              ? choices.froms.map(([word, label]) => option(word, label, column.counts))
              : []),
          );
          unit.hidden = !quantity;
          counts.hidden = quantity !== "pressure";
        };
        fill();
        holds.addEventListener("change", fill);
        row.append(
          head,
          ...[holds, unit, counts].map((select) => {
            const cell = document.createElement("td");
            cell.className = "words";
            cell.append(select);
            return cell;
          }),
        );
        body.append(row);
      }
      this.show("[data-asks]", true);
      body.querySelector(".asks select, select")?.focus();
    },
    async told() {
      const rows = [...this.$root.querySelectorAll(".ask-columns tbody tr")];
      const columns = rows.map((row) => {
        const [key, unit, counts] = [...row.querySelectorAll("select")].map((select) =>
          select.hidden ? "" : select.value,
        );
        return { header: row.dataset.header, key, unit, counts };
      });
      const answer = await ask(`${base()}/prove/columns`, { sha256: this.sha256, columns });
      if (!answer.ok) return this.wrong(answer.message);
      this.show("[data-asks]", false);
      this.run(this.sha256, this.name);
    },
    async run(sha256, name) {
      const begun = await ask(`${base()}/prove/replay`, { sha256 });
      if (!begun.ok) return this.wrong(begun.message);
      this.job = begun.job;
      this.show("[data-progress]", true);
      const bar = this.$root.querySelector("progress");
      const words = this.$root.querySelector("[data-words]");
      for (;;) {
        const how = await ask(`${base()}/prove/jobs/${begun.job}`);
        if (!how.ok) return this.wrong(how.message);
        bar.value = how.share;
        words.textContent = `${how.words} … ${Math.round(100 * how.share)} %`;
        if (how.over && how.done) {
          location.href = `${base()}/prove/replay?${new URLSearchParams({ file: sha256, name: name || "run" })}`;
          return undefined;
        }
        if (how.over)
          return this.wrong(
            how.wrong ||
              (how.stopped ? "Stopped; nothing was kept." : "It did not come to an end."),
          );
        await new Promise((done) => setTimeout(done, PAUSE));
      }
    },
    stop() {
      if (this.job) ask(`${base()}/prove/jobs/${this.job}/stop`, {});
    },
    lines(from, to) {
      return ask(
        `${base()}/prove/replay.json?${new URLSearchParams({ file: this.$root.dataset.file, ...(from === null ? {} : { from, to }) })}`,
      );
    },
    async draw() {
      const data = await this.lines(null, null);
      if (!data.ok) return;
      this.charts = await linked(this.$root.querySelector("[data-charts]"), data, (from, to) =>
        this.zoom(from, to),
      );
    },
    async zoom(from, to) {
      const data = await this.lines(from, to);
      if (data.ok) this.charts.fill(data);
    },
    goto(event) {
      const { from, to } = event.currentTarget.dataset;
      const room = Math.max(2 * (to - from), 4);
      this.zoom(Number(from) - room, Number(to) + room);
      this.$root.querySelector("[data-charts]").scrollIntoView({ block: "nearest" });
    },
    async keep() {
      const { file, name } = this.$root.dataset;
      const answer = await ask(`${base()}/prove/keep-run`, { sha256: file, name });
      if (!answer.ok) return trouble(answer.message);
      return location.reload();
    },
  }));
}

begin(replay);
