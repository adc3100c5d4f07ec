// Station 8: readings with their files, causes that are looked for once the page stands, what was measured put into the build.
import { begin } from "./parts.js";
import { shopParts } from "./shop.js";
import { ask, base, raw, send, trouble } from "./server.js";

function prove(Alpine) {
  Alpine.data("proof", () => ({
    ...shopParts(),
    files: [],
    async attach(event) {
      const said = this.$root.querySelector("[data-attached]");
      this.say("files", "");
      for (const file of event.currentTarget.files) {
        said.textContent = `${file.name} …`;
        const answer = await raw(`${base()}/prove/file`, file);
        if (answer.ok) this.files.push({ name: file.name, sha256: answer.sha256 });
        else this.say("files", `${file.name}: ${answer.message}`);
      }
      said.textContent = this.files.map((f) => f.name).join(", ");
      this.$root.querySelector("[name=files]").value = JSON.stringify(this.files);
    },
  }));
  Alpine.data("prove", () => ({
    async use(event) {
      const { what, tank } = event.currentTarget.dataset;
      const answer = await send(`${base()}/prove/use`, { what, tank });
      if (answer.ok) document.getElementById("announce").textContent = "In the build";
      else trouble(answer.message);
    },
  }));
  Alpine.data("causes", () => ({
    async init() {
      const answer = await ask(`${base()}/prove/causes`);
      if (answer.ok) this.$root.innerHTML = answer.piece;
      else
        this.$root.querySelector("p").textContent =
          answer.message || "They could not be looked for.";
    },
  }));
  Alpine.data("rig", () => ({
    ...shopParts(),
    async load(event) {
      const file = event.currentTarget.files[0];
      if (!file) return;
      this.$root.querySelector("[name=text]").value = (await file.text()).slice(0, 900000);
      this.look();
    },
    async look() {
      const answer = await ask(`${base()}/prove/rig`, this.values());
      this.say("text", answer.ok ? "" : answer.message);
      document.getElementById("rig-use").hidden = !answer.ok;
      const place = this.$root.querySelector("[data-points]");
      place.textContent = answer.ok
        ? answer.points
            .map(
              (p) =>
                `${p.pressure.toFixed(1)} ${answer.units[0]}: ${p.flow.toFixed(1)} ${answer.units[1]}, ${p.amps.toFixed(1)} A`,
            )
            .join(" · ")
        : "";
    },
    async use() {
      const answer = await send(`${base()}/prove/rig`, { ...this.values(), way: "use" });
      this.say("text", answer.ok ? "" : answer.message);
      if (answer.ok) document.getElementById("announce").textContent = "In the build";
    },
  }));
}

begin(prove);
