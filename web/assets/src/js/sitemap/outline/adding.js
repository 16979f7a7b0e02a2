// Adding and renaming entries in place: the field is there at once, the server catches up behind it.
import { ROW, draw, headHeight } from "./draw.js";
import { apply, holds, siblingsOf } from "./tree.js";
import { drawFilters, refresh, remember } from "./filters.js";
import { el, key, say } from "../../shared/say.js";
import { indexOf, layout, narrowed, node, reveal } from "./rows.js";
import { updateChecks } from "./outline.js";

export function rename(o) {
  o.state.col = null;
  if (node(o)?.bad) return openField(o, node(o), null, o.state.selected);
  o.cell.edit(node(o), "title");
}

// add opens the field of a new entry, after the chosen one or below it. The field is there at once; the server
// catches up behind it.
export function add(o, below) {
  const n = node(o);
  let parent = "",
    after = o.tree.tops.at(-1) || "";
  if (n && n.id !== o.tree.home) {
    if (below && !holds(n)) return say("Entries can stand below pages and groups only.");
    parent = below ? n.id : n.p || "";
    after = below ? n.kids.at(-1) || "" : n.id;
  } else if (n?.id === o.tree.home && !below) after = "";
  openField(o, { id: key(), t: "", k: "page", kids: [], p: parent, fresh: true }, after, o.state.selected);
}

// openField shows the field of an entry that is not there yet, or was refused. back is what is chosen if it is left.
function openField(o, n, after, back) {
  if (!o.tree.nodes.has(n.id)) {
    o.tree.nodes.set(n.id, n);
    const siblings = siblingsOf(o, n);
    siblings.splice(after ? siblings.indexOf(after) + 1 : 0, 0, n.id);
  }
  Object.assign(o.state, {
    col: null,
    sort: "",
    chosen: new Set(),
    editing: { id: n.id, col: "title", field: newField(o, n, back) },
    selected: n.id,
  });
  if (!showNew(o, n)) {
    reveal(o, n.id);
    layout(o);
  }
  draw(o);
  const top = indexOf(o, n.id) * ROW,
    seen = o.scroll.clientHeight - headHeight(o);
  if (top < o.scroll.scrollTop || top + 2 * ROW > o.scroll.scrollTop + seen) {
    o.scroll.scrollTop = Math.max(0, top - Math.floor(seen / 2));
    draw(o);
  }
  catchUp(o);
}

// showNew puts a new entry among the rows in sight, if these are the tree as it stands and hold the row it follows.
function showNew(o, n) {
  const siblings = siblingsOf(o, n),
    before = siblings[siblings.indexOf(n.id) - 1];
  if (narrowed(o) || o.state.sort || !before) return false;
  const at = indexOf(o, before);
  if (at < 0) return false;
  const depth = o.state.visible[at].depth;
  let to = at + 1;
  while (to < o.state.visible.length && o.state.visible[to].depth > depth) to++;
  o.state.visible.splice(to, 0, { node: n, depth });
  return true;
}

export function catchUp(o) {
  clearTimeout(o.catchTimer);
  o.catchTimer = setTimeout(() => {
    drawFilters(o);
    remember(o);
    o.plan.showFacts();
  }, 400);
}

// newField takes the title of an entry; Enter goes on to the next one, Alt and arrows place it.
function newField(o, n, back) {
  const field = el("input", {
    class: "o-edit",
    maxlength: 300,
    "aria-label": "Title",
    placeholder: "Title of the new entry",
    value: n.t,
    autocomplete: "off",
  });
  let over = false;
  const end = (save, again) => {
    if (over) return;
    over = true;
    const value = field.value.trim();
    o.state.editing = null;
    if (!save || !value) return dropLocal(o, n, back);
    send(o, n, value);
    if (again) return openField(o, { id: key(), t: "", k: "page", kids: [], p: n.p, fresh: true }, n.id, n.id);
    layout(o);
    draw(o);
    catchUp(o);
  };
  const home = () => o.scroll.focus({ preventScroll: true });
  field.addEventListener("keydown", (e) => {
    e.stopPropagation();
    if (e.isComposing) return;
    const side = e.altKey && { ArrowRight: 1, ArrowLeft: -1 }[e.key];
    if (side || e.key === "Enter") e.preventDefault();
    if (side) place(o, n, side);
    if (e.key === "Enter") {
      end(true, field.value.trim() !== "");
      if (!o.state.editing) home();
    }
    if (e.key === "Escape") {
      end(false);
      home();
    }
  });
  field.addEventListener("blur", () =>
    setTimeout(() => {
      if (document.activeElement !== field && document.hasFocus() && field.isConnected) end(true);
    }, 80),
  );
  return field;
}

// place makes a new entry the last below the sibling before it, or puts it after its parent.
function place(o, n, side) {
  const siblings = siblingsOf(o, n),
    at = siblings.indexOf(n.id);
  if (side > 0) {
    const above = o.tree.nodes.get(siblings[at - 1]);
    if (!above || !holds(above)) return say("There is no entry above it to move it under.");
    siblings.splice(at, 1);
    above.kids.push(n.id);
    n.p = above.id;
  } else {
    const parent = o.tree.nodes.get(n.p);
    if (!parent) return say("It is already at the top level.");
    siblings.splice(at, 1);
    n.p = parent.p || "";
    const to = siblingsOf(o, n);
    to.splice(to.indexOf(parent.id) + 1, 0, n.id);
  }
  reveal(o, n.id);
  layout(o);
  indent(o, n);
  draw(o);
}

// indent shows how deep the entry stands whose field is open.
export function indent(o, n) {
  const depth = o.state.visible[indexOf(o, n.id)]?.depth || 1,
    row = o.state.editing.field.closest(".o-row");
  row.setAttribute("aria-level", depth);
  row.querySelector(".o-title").style.paddingLeft = 8 + (depth - 1) * 22 + "px";
}

// send asks the server for an entry that stands in its place already.
function send(o, n, value) {
  Object.assign(n, { t: value, fresh: false, bad: null, waiting: true, s: "on its way", f: undefined });
  const parent = o.tree.nodes.get(n.p);
  if (parent?.bad) return refuse(o, { new: n.id }, `“${parent.t}”, above it, was refused.`);
  const siblings = siblingsOf(o, n),
    before = siblings.slice(0, siblings.indexOf(n.id)).filter((id) => !o.tree.nodes.get(id)?.bad);
  o.plan.act({ do: "add", new: n.id, parent: n.p || "", after: before.at(-1) || "", value });
}

// added takes up what the server made of entries that were sent; whoever types is left alone.
export function added(o, answer, forms) {
  const moved = apply(o, answer);
  for (const form of forms) {
    const n = o.tree.nodes.get(form.new);
    if (n) n.waiting = false;
  }
  if (moved) layout(o);
  draw(o);
  updateChecks(o);
  catchUp(o);
  if (answer.say && !o.state.editing) say(answer.say);
}

// refuse tells at its row why an entry is not there: Enter tries again, Delete gives it up.
export function refuse(o, form, words) {
  const n = o.tree.nodes.get(form.new);
  if (n) Object.assign(n, { waiting: false, bad: words, s: "" });
  draw(o);
  say(`“${n?.t || form.value}” was not added: ${words}`, true);
}

export function dropLocal(o, n, back) {
  const siblings = siblingsOf(o, n);
  siblings.splice(siblings.indexOf(n.id), 1);
  o.tree.nodes.delete(n.id);
  o.state.selected = o.tree.nodes.has(back) ? back : siblings[0] || n.p || o.tree.home || o.tree.tops[0];
  refresh(o);
  catchUp(o);
}
