// The bar on the card where it is a sheet at the bottom.
import { begin } from "./parts.js";

function card(Alpine) {
  // The bar on the card where it is a sheet at the bottom: dragged to a height, or turned to the next of three.
  Alpine.data("grip", () => ({
    from: null,
    moved: false,
    init() {
      const kept = Number(localStorage.getItem("card-height"));
      if (kept) this.set(kept);
    },
    set(share) {
      const height = Math.round(Math.min(0.85, Math.max(0.05, share)) * 100) / 100;
      document.documentElement.style.setProperty(
        "--card-height",
        `${Math.max(60, height * innerHeight)}px`,
      );
      localStorage.setItem("card-height", height);
    },
    hold(event) {
      this.from = event.clientY;
      this.moved = false;
      event.currentTarget.setPointerCapture(event.pointerId);
    },
    drag(event) {
      if (this.from === null || (!this.moved && Math.abs(event.clientY - this.from) < 6)) return;
      this.moved = true;
      this.set(1 - (event.clientY - 22) / innerHeight);
    },
    drop() {
      this.from = null;
    },
    turn() {
      if (this.moved) return void (this.moved = false);
      const now = this.$root.parentElement.offsetHeight / innerHeight;
      this.set([0.32, 0.8].find((x) => x > now + 0.02) ?? 0.05);
    },
  }));
}

begin(card);
