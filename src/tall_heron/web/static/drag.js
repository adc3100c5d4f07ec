// What is held and dragged on the drawing: corners, legs, parts and clamps. The line follows the hand at once; figures and findings follow from the server.
import { curve, lengths, placeAt } from "./bend.js";
import { pan } from "./drawing.js";
import { ask, base, look, page } from "./server.js";
import { View, views } from "./view.js";

const GRID = 10; // mm
const NEAR = 6; // px within which a dragged point takes the coordinate of a neighbour

export const dragging = {
  hold(event) {
    const on = event.altKey
      ? event.target.closest("[data-zone]")
      : event.target.closest(".handle, .stands, .clamp, .route-line.chosen-line");
    const svg = event.target.closest("svg.vehicle[data-view]");
    if (!on && svg && event.pointerType === "mouse" && !event.button && !event.target.closest("a"))
      return void this.panning(event);
    if (!on || !svg || event.button || !this.data) return;
    event.preventDefault();
    const view = new View(svg);
    const held = {
      view,
      on,
      from: view.mm(event),
      moved: false,
      x: event.clientX,
      y: event.clientY,
    };
    if (on.matches(".handle"))
      Object.assign(held, {
        kind: "corner",
        at: Number(on.dataset.at),
        corners: this.line().corners.map((c) => [...c]),
      });
    else if (event.altKey) Object.assign(held, { kind: "zone", name: on.dataset.zone });
    else if (on.matches(".stands"))
      Object.assign(held, {
        kind: "part",
        home: on.dataset.home,
        start: this.data.homes[on.dataset.home],
      });
    else if (on.matches(".clamp") && on.closest(".chosen-line"))
      Object.assign(held, {
        kind: "clamp",
        at: Number(on.dataset.clamp),
        clamps: [...this.line().clamps],
      });
    else if (on.matches(".route-line"))
      Object.assign(held, { kind: "leg", corners: this.line().corners.map((c) => [...c]) });
    else return;
    this.held = held;
    const move = (e) => this.drag(e);
    const drop = (e) => {
      document.removeEventListener("pointermove", move);
      for (const name of ["pointerup", "pointercancel"]) document.removeEventListener(name, drop);
      this.drop(e);
    };
    document.addEventListener("pointermove", move);
    for (const name of ["pointerup", "pointercancel"]) document.addEventListener(name, drop);
  },
  // The empty drawing is taken and moved in its frame.
  panning(event) {
    pan(document.getElementById("views"), event);
  },
  drag(event) {
    const held = this.held;
    if (!held || (!held.moved && Math.hypot(event.clientX - held.x, event.clientY - held.y) < 4))
      return;
    if (held.kind === "leg" && !held.moved) this.breakLeg(held);
    held.moved = true;
    const now = held.view.mm(event);
    if (held.kind === "corner") this.dragCorner(held, now);
    else if (held.kind === "part") this.dragPart(held, now);
    else if (held.kind === "clamp") this.dragClamp(held, now);
    else if (held.kind === "zone") this.dragZone(held, now);
  },
  // A leg that is taken between its corners gets one where it was taken.
  breakLeg(held) {
    const line = this.line();
    const points = [line.a, ...held.corners, line.b];
    const flat = points.map((p) => held.view.at(p));
    const [x, y] = held.view.at(held.view.moved([0, 0, 0], held.from));
    let best = [Infinity, 0, 0];
    for (let i = 0; i + 1 < flat.length; i++) {
      const [ax, ay] = flat[i];
      const [bx, by] = flat[i + 1];
      const long = (bx - ax) ** 2 + (by - ay) ** 2 || 1;
      const t = Math.min(1, Math.max(0, ((x - ax) * (bx - ax) + (y - ay) * (by - ay)) / long));
      const far = Math.hypot(ax + t * (bx - ax) - x, ay + t * (by - ay) - y);
      if (far < best[0]) best = [far, i, t];
    }
    const [, i, t] = best;
    held.corners.splice(
      i,
      0,
      points[i].map((v, k) => v + t * (points[i + 1][k] - v)),
    );
    Object.assign(held, { kind: "corner", at: i, added: true });
  },
  dragCorner(held, now) {
    held.corners[held.at] = held.view.moved(held.corners[held.at], this.snapped(held, now));
    this.drawLine(page().line, held.corners, held.added ? -1 : held.at);
    this.tryOut("corners", { line: page().line, corners: held.corners });
  },
  snapped(held, now) {
    const own = held.at;
    return now.map((value, k) => {
      const [axis, sign] = held.view.axes[k];
      const others = Object.values(this.data.lines).flatMap((line) => [
        line.a,
        line.b,
        ...line.corners,
      ]);
      const near = others
        .map((p) => sign * p[axis])
        .filter((v, i) => i !== own && Math.abs(v - value) * held.view.scale < NEAR);
      const best = near.sort((a, b) => Math.abs(a - value) - Math.abs(b - value))[0];
      const grid = Math.round(value / GRID) * GRID;
      return best !== undefined && Math.abs(best - value) < Math.abs(grid - value) + 4
        ? best
        : grid;
    });
  },
  drawLine(id, corners, at) {
    const line = this.data.lines[id];
    const points = curve(line.a, corners, line.b, line.r);
    for (const view of views()) {
      const d = view.path(points);
      view.svg
        .querySelectorAll(
          `.route-line[data-line="${CSS.escape(id)}"] :is(.pipe, .reach, .pipe-core)`,
        )
        .forEach((p) => p.setAttribute("d", d));
      view.svg
        .querySelectorAll(
          `.route-line[data-line="${CSS.escape(id)}"] :is(.clamp, .guard), .letters[data-line="${CSS.escape(id)}"]`,
        )
        .forEach((p) => p.classList.add("while-dragged"));
      if (at < 0) continue;
      const [x, y] = view.at(corners[at]);
      view.svg.querySelectorAll(`.handle[data-at="${at}"] circle`).forEach((c) => {
        c.setAttribute("cx", x);
        c.setAttribute("cy", y);
      });
    }
  },
  dragPart(held, now) {
    const step = now.map((v, k) => Math.round((v - held.from[k]) / GRID) * GRID);
    held.to = held.view.shifted(held.start, step[0], step[1]);
    for (const view of views()) {
      const [x0, y0] = view.at(held.start);
      const [x1, y1] = view.at(held.to);
      view.svg
        .querySelectorAll(`.stands[data-home="${CSS.escape(held.home)}"]`)
        .forEach((g) => g.setAttribute("transform", `translate(${x1 - x0} ${y1 - y0})`));
    }
    this.tryOut("part", { part: held.home, to: held.to });
  },
  // A zone or a panel, with Alt held.
  dragZone(held, now) {
    const step = now.map((v, k) => Math.round((v - held.from[k]) / GRID) * GRID);
    held.by = held.view.shifted([0, 0, 0], step[0], step[1]);
    for (const view of views()) {
      const [[x0, y0], [x1, y1]] = [view.at([0, 0, 0]), view.at(held.by)];
      view.svg
        .querySelectorAll(`[data-zone="${CSS.escape(held.name)}"]`)
        .forEach((p) => p.setAttribute("transform", `translate(${x1 - x0} ${y1 - y0})`));
    }
    this.tryOut("shifted", { name: held.name, by: held.by });
  },
  dragClamp(held, now) {
    const line = this.line();
    const points = curve(line.a, line.corners, line.b, line.r);
    const along = lengths(points);
    let best = [Infinity, 0];
    for (let s = 0; s <= along.at(-1); s += GRID) {
      const [x, y] = held.view.at(placeAt(points, s));
      const [px, py] = held.view.at(held.view.moved([0, 0, 0], now));
      const far = Math.hypot(x - px, y - py);
      if (far < best[0]) best = [far, s];
    }
    held.clamps[held.at] = best[1];
    const [x, y] = held.view.at(placeAt(points, best[1]));
    const [x1, y1, x2, y2] = ["x1", "y1", "x2", "y2"].map((k) => Number(held.on.getAttribute(k)));
    held.on.setAttribute("transform", `translate(${x - (x1 + x2) / 2} ${y - (y1 + y2) / 2})`);
    this.tryOut("clamps", { line: page().line, clamps: held.clamps });
  },
  // One question at a time; the newest waits for the answer, those between are never asked.
  async tryOut(act, more) {
    this.next = { act, ...more };
    if (this.asking) return;
    this.asking = true;
    while (this.next) {
      const asked = this.next;
      this.next = null;
      const { view, times } = page();
      const answer = await ask(`${base()}/route/try`, {
        line: page().line,
        ...asked,
        view,
        zoom: times,
      });
      if (this.held && answer.ok) this.show(answer, asked);
    }
    this.asking = false;
  },
  show(answer, asked) {
    for (const view of views()) {
      for (const [id, d] of Object.entries(answer.lines[view.name] || {})) {
        if (asked.corners && id === asked.line) continue;
        view.svg
          .querySelectorAll(
            `.route-line[data-line="${CSS.escape(id)}"] :is(.pipe, .reach, .pipe-core)`,
          )
          .forEach((p) => p.setAttribute("d", d));
      }
      document.getElementById(`marks-${view.name}`).innerHTML = answer.marks[view.name] || "";
    }
    Object.assign(
      this.data.lines,
      Object.fromEntries(
        Object.entries(answer.geometry).map(([id, line]) => [
          id,
          { ...line, corners: this.data.lines[id] ? this.data.lines[id].corners : line.corners },
        ]),
      ),
    );
    document.getElementById("figures").innerHTML = answer.figures;
    document.getElementById("findings").innerHTML = answer.findings;
  },
  drop(event) {
    const held = this.held;
    this.held = this.next = null;
    if (!held) return;
    this.justDragged = held.moved;
    setTimeout(() => (this.justDragged = false), 0);
    if (!held.moved) {
      if (held.kind === "part") look({ part: held.home, line: "", try: "" });
      return;
    }
    if (event.type === "pointercancel") return void look({});
    if (held.kind === "corner")
      this.send("corners", {
        corners: held.corners,
        what: `${held.at + 1} ${held.added ? "added" : "moved"}`,
      });
    else if (held.kind === "part") this.send("part", { part: held.home, to: held.to });
    else if (held.kind === "zone") this.send("shifted", { name: held.name, by: held.by });
    else if (held.kind === "clamp")
      this.send("clamps", { clamps: held.clamps.sort((a, b) => a - b) });
  },
};
