// A part of the pages, made known to Alpine when it starts.
export function begin(make) {
  document.addEventListener("alpine:init", () => make(window.Alpine));
}
