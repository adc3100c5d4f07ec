({
  // What lies right under a text: its own halo, else the topmost filled shape at its middle, else the paper.
  ground: (text, box) => {
    const style = getComputedStyle(text);
    if (style.paintOrder.startsWith("stroke") && parseFloat(style.strokeWidth) >= 3) return style.stroke;
    const under = document.elementsFromPoint((box.left + box.right) / 2, (box.top + box.bottom) / 2);
    for (const e of under) {
      if (e === text || e.tagName === "text") continue;
      const s = getComputedStyle(e);
      const paint = e instanceof SVGGeometryElement ? s.fill : s.backgroundColor;
      if (paint.startsWith("rgb(")) return paint;
    }
    return getComputedStyle(document.body).backgroundColor;
  },
  // Every text of every drawing: where it stands, how large it comes out, whether it keeps inside.
  texts() {
    return [...document.querySelectorAll("svg text")]
      .filter((t) => t.textContent.trim() && t.getClientRects().length)
      .map((t) => {
        t.scrollIntoView({ block: "center", behavior: "instant" });
        const box = t.getBoundingClientRect();
        const style = getComputedStyle(t);
        const svg = t.closest("svg").getBoundingClientRect();
        const pane = t.closest(".picture");
        const panned = pane ? pane.scrollLeft : 0;
        const margin = box.height * 0.18; // the box of a line is taller than its letters
        return {
          text: t.textContent,
          left: box.left + panned,
          right: box.right + panned,
          top: box.top + margin + scrollY,
          bottom: box.bottom - margin + scrollY,
          fill: style.fill,
          size: parseFloat(style.fontSize) * t.getScreenCTM().a,
          ground: this.ground(t, box),
          inside: box.left >= svg.left - 1 && box.right <= svg.right + 1,
        };
      });
  },
  // Elements whose text is wider than their box; the name line and the undo button end in an ellipsis on purpose.
  clipped: () =>
    [...document.querySelectorAll("h1,h2,h3,p,dt,dd,th,td,button,label,.under,.big,input,select")]
      .filter((e) => e.offsetParent && getComputedStyle(e).display !== "inline" && !e.closest(".name-line"))
      .filter((e) => e.scrollWidth > e.clientWidth + 2 && !e.matches(".visually-hidden"))
      .map((e) => `${e.tagName} ${e.textContent.trim().slice(0, 40)}`),
  // Targets under 44 px.
  low: () =>
    [...document.querySelectorAll(".btn-ink,.btn-line,.tool,input:not([type=checkbox]),select,.run a")]
      .filter((e) => e.offsetParent && e.getBoundingClientRect().height < 43.5)
      .map((e) => e.outerHTML.slice(0, 80)),
})
