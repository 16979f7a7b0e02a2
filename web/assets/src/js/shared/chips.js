// A field for several names: each stands as a chip that can be taken out, the next
// one is typed or chosen beside it. The field that is sent keeps them with
// semicolons between, and tells a change like any other. What a field knows is one object, c.
import { el } from "./say.js";

// listed gives the names that stand in a value, each once.
export function listed(value) {
  const names = value
    .split(";")
    .map((name) => name.trim())
    .filter(Boolean);
  return names.filter((name, i) => names.findIndex((other) => other.toLowerCase() === name.toLowerCase()) === i);
}

// chipsIn makes a field for several names that stands by itself, as in a cell: its value counts what is still typed.
export function chipsIn(attrs, value) {
  const sent = el("input", { value, id: attrs.id }),
    box = el("span", { class: attrs.class }, sent);
  if (attrs.list) sent.dataset.list = attrs.list;
  chips(sent);
  const typed = box.querySelector(".chips-typed");
  typed.setAttribute("aria-label", attrs["aria-label"]);
  Object.defineProperty(box, "value", { get: () => listed([sent.value, typed.value].join(";")).join("; ") });
  box.focus = (options) => typed.focus(options);
  return box;
}

export function chips(sent) {
  if (sent.dataset.chips) return; // it is one already
  sent.dataset.chips = "on";
  const c = { sent, id: sent.id },
    stood = document.activeElement === sent; // as after it was drawn again
  c.typed = el("input", {
    class: "chips-typed",
    id: c.id,
    autocomplete: "off",
    list: c.sent.dataset.list || null,
    placeholder: c.sent.placeholder || null,
    maxlength: 100,
  });
  c.row = el("span", { class: "chips-row" });
  c.box = el("div", { class: "in chips-in" }, c.row, c.typed);
  c.sent.id = c.id + "-sent";
  c.sent.hidden = true;
  c.sent.after(c.box);

  c.typed.addEventListener("keydown", (e) => {
    if (e.key === "Enter" && c.typed.value.trim()) {
      e.preventDefault();
      take(c);
    } else if (e.key === "Backspace" && !c.typed.value && c.sent.value) {
      set(c, listed(c.sent.value).slice(0, -1));
    }
  });
  c.typed.addEventListener("input", (e) => {
    const chosen = e.inputType === "insertReplacementText" || !e.inputType; // from the list below
    if (chosen || /[;,]\s*$/.test(c.typed.value)) {
      c.typed.value = c.typed.value.replace(/[;,]\s*$/, "");
      take(c);
    }
  });
  c.typed.addEventListener("change", (e) => {
    e.stopPropagation();
    if (c.typed.value.trim()) take(c);
  });
  c.sent.addEventListener("chips:again", () => {
    draw(c);
    c.typed.setAttribute("aria-invalid", "true");
  });
  c.box.addEventListener("click", (e) => {
    if (e.target === c.box || e.target === c.row) c.typed.focus();
  });
  draw(c);
  if (stood) c.typed.focus({ preventScroll: true });
}

function draw(c) {
  const names = listed(c.sent.value);
  c.typed.placeholder = names.length ? "" : c.sent.placeholder;
  c.row.replaceChildren(
    ...names.map((name) =>
      el(
        "span",
        { class: "chip-of" },
        name,
        el(
          "button",
          { type: "button", "aria-label": `Remove ${name}`, onclick: () => set(c, without(names, name)) },
          "×",
        ),
      ),
    ),
  );
}

const without = (names, name) => names.filter((other) => other !== name);

function set(c, names) {
  c.sent.value = names.join("; ");
  c.typed.removeAttribute("aria-invalid");
  draw(c);
  c.typed.focus({ preventScroll: true });
  c.sent.dispatchEvent(new Event("change", { bubbles: true }));
}

function take(c) {
  const more = listed(c.typed.value);
  c.typed.value = "";
  if (more.length) set(c, listed([c.sent.value, ...more].join(";")));
}
