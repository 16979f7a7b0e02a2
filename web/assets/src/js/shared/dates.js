// A day beside its field in words, whatever order the browser shows it in.
import { el } from "./say.js";

// dayInWords writes 2026-12-09 as 9 Dec 2026.
export function dayInWords(value) {
  const day = new Date(value + "T12:00:00Z");
  return isNaN(day)
    ? ""
    : day.toLocaleDateString("en-GB", { day: "numeric", month: "short", year: "numeric", timeZone: "UTC" });
}

export function spellDates(root) {
  for (const field of root.querySelectorAll("input[type=date]:not([data-spelt])")) {
    field.dataset.spelt = "";
    const words = el("span", { class: "day-words small quiet", "aria-live": "polite" }, dayInWords(field.value));
    field.after(words);
    field.addEventListener("input", () => {
      words.textContent = dayInWords(field.value);
    });
  }
}
