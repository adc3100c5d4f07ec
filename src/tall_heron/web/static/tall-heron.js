// Says on the page that its parts are alive.
document.addEventListener("alpine:initialized", () => {
  document.body.dataset.alive = "yes";
});
