// Choosing a symbol: what is chosen, and a board of all of them that is filtered by words.
import { el, symbol } from "../shared/say.js";

// matching gives the symbols of which a word begins with what was typed.
export const matching = (symbols, typed) =>
  symbols.filter(([, words]) => words.split(" ").some((w) => w.startsWith(typed.trim().toLowerCase())));

// makeSymbols draws the field; put is called with the name of the symbol that was chosen.
export function makeSymbols(symbols, value, put) {
  const open = el("button", { type: "button", class: "btn symbol-now", "aria-expanded": "false" }),
    find = el("input", { class: "in", type: "search", "aria-label": "Find a symbol by word", placeholder: "a word" }),
    board = el("div", { class: "symbol-board", role: "group", "aria-label": "Symbols" }),
    more = el("div", { class: "symbol-more", hidden: true }, find, board),
    dom = el("div", {}, open, more);
  const show = (v) => open.replaceChildren(...(v ? [symbol(v), v] : ["no symbol"]));
  const toggle = (on) => {
    more.hidden = !on;
    open.setAttribute("aria-expanded", String(on));
    if (on) draw();
    (on ? find : open).focus();
  };
  const choose = (name) => {
    put(name);
    show(name);
    toggle(false);
  };
  const draw = () => {
    const found = find.value.trim() ? matching(symbols, find.value) : symbols;
    board.replaceChildren(
      ...found.map(([name]) =>
        el(
          "button",
          {
            type: "button",
            title: name || "no symbol",
            "aria-label": name || "no symbol",
            onclick: () => choose(name),
          },
          name ? symbol(name) : "–",
        ),
      ),
      ...(found.length ? [] : [el("p", { class: "small quiet" }, "No symbol has this word.")]),
    );
  };
  open.addEventListener("click", () => toggle(more.hidden));
  find.addEventListener("input", draw);
  dom.addEventListener("keydown", (e) => {
    if (e.key !== "Escape" || more.hidden) return;
    e.stopPropagation();
    toggle(false);
  });
  show(value);
  return { dom, set: show };
}
