// What every sheet of fields shares: its values, and a message beside the field that is wrong.
export const sheet = {
  values() {
    const data = {};
    for (const input of this.$root.querySelectorAll("[name]"))
      if (!input.matches("fieldset[disabled] *")) data[input.name] = input.value;
    return data;
  },
  say(field, message) {
    for (const place of this.$root.querySelectorAll("[data-wrong]")) {
      const mine = place.dataset.wrong === field && !place.closest("fieldset[disabled]");
      place.textContent = mine ? message : "";
      const input = place.closest(".field")?.querySelector("[name]");
      if (!input) continue; // said of the whole sheet
      input.setAttribute("aria-invalid", mine && message ? "true" : "false");
      if (mine && message) input.focus();
    }
  },
};
