// The drawing larger and smaller, and panned in its frame.
import { page } from "./server.js";

export const WHEEL = 60; // px a wheel or two fingers move for one step of size
// The drawing at a multiple of its size; a larger one pans in its frame.
export function zoomed() {
  const svg = document.getElementById("drawing-svg");
  if (!svg || !svg.viewBox) return;
  const times = Number(page().zoom || 1);
  svg.dataset.wide ??= String(svg.classList.contains("pans"));
  svg.classList.toggle("pans", times > 1 || svg.dataset.wide === "true");
  svg.classList.toggle("zoomed", times > 1);
  svg.setAttribute("width", Math.round(svg.viewBox.baseVal.width * times));
  svg.setAttribute("height", Math.round(svg.viewBox.baseVal.height * times));
}

// The drawing follows the hand in its frame, and the page up and down, until the hand lets go.
export function pan(frame, event) {
  const [x, y] = [event.clientX + frame.scrollLeft, event.clientY + scrollY];
  const move = (e) => {
    frame.scrollLeft = x - e.clientX;
    scrollTo({ top: y - e.clientY, behavior: "instant" });
  };
  document.addEventListener("pointermove", move);
  document.addEventListener("pointerup", () => document.removeEventListener("pointermove", move), {
    once: true,
  });
}

window.addEventListener("put", () => {
  if (page().zoom) zoomed();
});
