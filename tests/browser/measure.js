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
      .filter((e) => !e.closest("details:not([open])") || e.closest("summary")) // what is folded is not laid out yet
      .filter((e) => e.scrollWidth > e.clientWidth + 2 && !e.matches(".visually-hidden"))
      .map((e) => `${e.tagName} ${e.textContent.trim().slice(0, 40)}`),
  // Targets under 44 px.
  low: () =>
    [...document.querySelectorAll(".btn-ink,.btn-line,.tool,input:not([type=checkbox]),select,.run a")]
      .filter((e) => e.offsetParent && e.getBoundingClientRect().height < 43.5)
      .map((e) => e.outerHTML.slice(0, 80)),
  // Texts that stand on one another: by the ink of their lines, what is hidden, folded or scrolled out of its frame left out.
  overlaps() {
    const lines = [];
    const walker = document.createTreeWalker(document.body, NodeFilter.SHOW_TEXT);
    while (walker.nextNode()) {
      const node = walker.currentNode;
      const parent = node.parentElement;
      if (!node.textContent.trim() || !parent || !this.seen(parent)) continue;
      const range = document.createRange();
      range.selectNodeContents(node);
      for (const whole of range.getClientRects()) {
        const b = whole.width < 2 || whole.height < 2 ? null : this.visible(parent, whole);
        if (!b) continue;
        const ink = b.height * 0.3;
        const middle = (b.top + b.bottom) / 2;
        lines.push({ parent, text: node.textContent.trim().slice(0, 40), left: b.left + 1, right: b.right - 1, top: middle - ink, bottom: middle + ink });
      }
    }
    lines.sort((a, b) => a.top - b.top);
    const out = [];
    lines.forEach((a, i) => {
      for (let k = i + 1; k < lines.length && lines[k].top < a.bottom; k++) {
        const b = lines[k];
        if (a.parent === b.parent || this.floats(a.parent) !== this.floats(b.parent)) continue;
        if (Math.min(a.right, b.right) - Math.max(a.left, b.left) > 1 && Math.min(a.bottom, b.bottom) - b.top > 1)
          out.push(`${a.text} | ${b.text}`);
      }
    });
    return out;
  },
  seen(element) {
    for (let e = element; e && e !== document.documentElement; e = e.parentElement) {
      const style = getComputedStyle(e);
      if (style.display === "none" || style.visibility === "hidden" || Number(style.opacity) === 0) return false;
      if (e.matches("script, style, template, title, option, dialog, .visually-hidden, .skip, .announce")) return false;
      if (e.tagName === "DETAILS" && !e.open && ![...e.children].some((c) => c.tagName === "SUMMARY" && c.contains(element))) return false;
    }
    return true;
  },
  // What of a box its frames leave to see, or null.
  visible(element, b) {
    let { left, right, top, bottom } = b;
    for (let e = element; e && e !== document.body; e = e.parentElement) {
      const style = getComputedStyle(e);
      if (!/(auto|scroll|hidden)/.test(style.overflowX + style.overflowY)) continue;
      const frame = e.getBoundingClientRect();
      left = Math.max(left, frame.left);
      right = Math.min(right, frame.right);
      top = Math.max(top, frame.top);
      bottom = Math.min(bottom, frame.bottom);
    }
    return right - left > 1 && bottom - top > 1 ? { left, right, top, bottom, height: bottom - top } : null;
  },
  floats(element) {
    for (let e = element; e; e = e.parentElement) if (["fixed", "sticky"].includes(getComputedStyle(e).position)) return true;
    return false;
  },
})
