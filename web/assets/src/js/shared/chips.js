// A field for several names: each stands as a chip that can be taken out, the next
// one is typed or chosen beside it. The field that is sent keeps them with
// semicolons between, and tells a change like any other.
import { el } from "./say.js";

// listed gives the names that stand in a value, each once.
export function listed(value) {
  const names = value
    .split(";")
    .map((name) => name.trim())
    .filter(Boolean);
  return names.filter((name, i) => names.findIndex((other) => other.toLowerCase() === name.toLowerCase()) === i);
}

export function chips(sent) {
  if (sent.dataset.chips) return; // it is one already
  sent.dataset.chips = "on";
  const id = sent.id;
  const typed = el("input", {
    class: "chips-typed",
    id,
    autocomplete: "off",
    list: sent.dataset.list || null,
    placeholder: sent.placeholder || null,
    maxlength: 100,
  });
  const row = el("span", { class: "chips-row" });
  const box = el("div", { class: "in chips-in" }, row, typed);
  sent.id = id + "-sent";
  sent.hidden = true;
  sent.after(box);

  function draw() {
    const names = listed(sent.value);
    typed.placeholder = names.length ? "" : sent.placeholder;
    row.replaceChildren(
      ...names.map((name) =>
        el(
          "span",
          { class: "chip-of" },
          name,
          el(
            "button",
            { type: "button", "aria-label": `Remove ${name}`, onclick: () => set(without(names, name)) },
            "×",
          ),
        ),
      ),
    );
  }
  const without = (names, name) => names.filter((other) => other !== name);

  function set(names) {
    sent.value = names.join("; ");
    typed.removeAttribute("aria-invalid");
    draw();
    typed.focus({ preventScroll: true });
    sent.dispatchEvent(new Event("change", { bubbles: true }));
  }
  function take() {
    const more = listed(typed.value);
    typed.value = "";
    if (more.length) set(listed([sent.value, ...more].join(";")));
  }

  typed.addEventListener("keydown", (e) => {
    if (e.key === "Enter" && typed.value.trim()) {
      e.preventDefault();
      take();
    } else if (e.key === "Backspace" && !typed.value && sent.value) {
      set(listed(sent.value).slice(0, -1));
    }
  });
  typed.addEventListener("input", (e) => {
    const chosen = e.inputType === "insertReplacementText" || !e.inputType; // from the list below
    if (chosen || /[;,]\s*$/.test(typed.value)) {
      typed.value = typed.value.replace(/[;,]\s*$/, "");
      take();
    }
  });
  typed.addEventListener("change", (e) => {
    e.stopPropagation();
    if (typed.value.trim()) take();
  });
  sent.addEventListener("chips:again", () => {
    draw();
    typed.setAttribute("aria-invalid", "true");
  });
  box.addEventListener("click", (e) => {
    if (e.target === box || e.target === row) typed.focus();
  });
  draw();
}
