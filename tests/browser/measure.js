({
  // Every text of every drawing: where it stands, how large it comes out, whether it keeps inside.
  texts: () =>
    [...document.querySelectorAll("svg text")]
      .filter((t) => t.textContent.trim() && t.getClientRects().length)
      .map((t) => {
        const box = t.getBoundingClientRect();
        const style = getComputedStyle(t);
        const svg = t.closest("svg").getBoundingClientRect();
        const margin = box.height * 0.18; // the box of a line is taller than its letters
        return {
          text: t.textContent,
          left: box.left,
          right: box.right,
          top: box.top + margin,
          bottom: box.bottom - margin,
          fill: style.fill,
          size: parseFloat(style.fontSize) * t.getScreenCTM().a,
          inside: box.left >= svg.left - 1 && box.right <= svg.right + 1,
        };
      }),
  paper: () => getComputedStyle(document.body).backgroundColor,
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
