// Adding a block: a short list of what may stand there, filtered by typing.
import { el } from "../shared/say.js";

const id = "add-options";

// askKind shows the list beside a button and gives the kind that was chosen to take.
export function askKind(x, anchor, kinds, take) {
  document.querySelector(".add-list")?.remove();
  const a = { x, anchor, kinds, take, at: 0, found: [] };
  a.field = el("input", {
    class: "in",
    type: "text",
    role: "combobox",
    "aria-expanded": "true",
    "aria-controls": id,
    "aria-label": "Add a block",
    placeholder: "Type to filter",
    autocomplete: "off",
  });
  a.list = el("ul", { id, role: "listbox", "aria-label": "Kinds of block" });
  a.box = el("div", { class: "popover add-list", role: "dialog", "aria-label": "Add a block" }, a.field, a.list);
  a.away = (e) => !a.box.contains(e.target) && end(a, false);
  a.field.addEventListener("input", () => {
    a.at = 0;
    draw(a);
  });
  a.field.addEventListener("keydown", (e) => onKey(a, e));
  document.body.append(a.box);
  const r = anchor.getBoundingClientRect();
  a.box.style.left = Math.max(8, Math.min(r.left, innerWidth - 360)) + "px";
  a.box.style.top = Math.max(8, Math.min(r.bottom + 4, innerHeight - 380)) + "px";
  addEventListener("pointerdown", a.away, true);
  draw(a);
  a.field.focus();
}

function end(a, back) {
  removeEventListener("pointerdown", a.away, true);
  a.box.remove();
  if (back && a.anchor.matches("button")) a.anchor.focus();
  else if (back) a.x.view.focus();
}

function choose(a, kind) {
  end(a, false);
  a.take(kind);
}

function onKey(a, e) {
  if (e.key === "ArrowDown") a.at = Math.min(a.at + 1, a.found.length - 1);
  else if (e.key === "ArrowUp") a.at = Math.max(a.at - 1, 0);
  else if (e.key === "Enter" && a.found[a.at]) choose(a, a.found[a.at]);
  else if (e.key === "Escape" || e.key === "Tab") end(a, true);
  else if (e.key !== "Enter") return;
  e.preventDefault();
  e.stopPropagation();
  if (a.box.isConnected) draw(a);
}

function draw(a) {
  a.found = matching(a.kinds, a.field.value);
  a.at = Math.min(a.at, Math.max(0, a.found.length - 1));
  a.list.replaceChildren(
    ...a.found.map((k, i) => option(a, k, i)),
    ...(a.found.length ? [] : [el("li", { class: "quiet" }, "Nothing of this name may stand here.")]),
  );
  if (a.found.length) a.field.setAttribute("aria-activedescendant", `${id}-${a.at}`);
  a.list.children[a.at]?.scrollIntoView({ block: "nearest" });
}

function option(a, k, i) {
  const li = el(
    "li",
    { id: `${id}-${i}`, role: "option", "aria-selected": String(i === a.at) },
    el("b", {}, k.name),
    " ",
    el("span", { class: "quiet" }, k.about),
  );
  li.addEventListener("pointerdown", (e) => {
    e.preventDefault();
    choose(a, k);
  });
  return li;
}

// matching gives the kinds of which a word begins with what was typed, those called so first.
export function matching(kinds, typed) {
  const want = typed.trim().toLowerCase();
  if (!want) return kinds;
  const begins = (words) =>
    words
      .toLowerCase()
      .split(/[\s,]+/)
      .some((w) => w.startsWith(want)) || words.toLowerCase().startsWith(want);
  return [...kinds.filter((k) => begins(k.name)), ...kinds.filter((k) => !begins(k.name) && begins(k.about))];
}
