// What keys, the mouse and the buttons of the outline do.
import { ROW } from "./draw.js";
import { add, dropLocal, rename } from "./adding.js";
import { chooseAll, chooseAlso, chooseBelow, chooseStep, chooseTo, many, select, step, toggle } from "./select.js";
import { isPage } from "../kinds.js";
import { holds } from "./tree.js";
import { indexOf, isOpen, narrowed, node } from "./rows.js";
import { openTo } from "./filters.js";
import { say } from "../../shared/say.js";

const keys = [
  ["↑ ↓", "select the entry above or below"],
  ["← →", "close or open the branch; go up or into the cells"],
  ["n", "add an entry after this one; Enter goes on to the next, Alt → and Alt ← place it"],
  ["Shift n", "add an entry below this one"],
  ["Enter", "rename"],
  ["→", "open a closed branch, then enter its cells; Esc leaves them"],
  [
    "in a cell",
    "Enter or F2 to edit, Tab to the next, Delete clears, Ctrl D fills down, Ctrl C and Ctrl V copy and paste",
  ],
  ["Alt ↑", "move up, Alt ↓ down"],
  ["Alt →", "indent, Alt ← outdent"],
  ["m", "move to …"],
  ["c", "copy with everything below it"],
  ["s", "sort entries below A–Z, Shift s on all levels"],
  ["b", "select the whole branch"],
  ["Delete", "remove"],
  ["t", "find in the tree"],
  ["o", "open the page"],
  ["f", "go to the facts on the right"],
  ["Shift ↑ ↓", "select several, Ctrl A all visible"],
  ["Ctrl V", "paste a list of entries below this one"],
  ["Ctrl Z", "undo, Ctrl Shift Z redo"],
  ["1 … 6", "open to that level"],
];

function stepTree(o, dir) {
  if (o.state.sort) return say("The view is sorted; sort it by place in the tree to move entries.");
  return o.plan.act({ do: "step", step: dir, ...o.plan.on() });
}

export function run(o, what, button) {
  switch (what) {
    case "add":
      return add(o, false);
    case "paste":
      return askPaste(o);
    case "keys":
      return document.dispatchEvent(new CustomEvent("show-keys", { detail: keys }));
    case "choose-none":
      return select(o, o.state.selected, true);
    case "remove":
      if (node(o)?.bad) return dropLocal(o, node(o));
      break;
    case "in":
    case "out":
    case "up":
    case "down":
      return stepTree(o, what);
    case "choose-below":
      return chooseBelow(o);
  }
  o.plan.run(what, button);
}

function pasteTarget(o) {
  const n = node(o);
  if (!n || n.id === o.tree.home) return "";
  return holds(n) ? n.id : n.p || "";
}

export async function paste(o, text) {
  if (!text.trim()) return;
  o.refused = (await o.plan.act({ do: "paste", parent: pasteTarget(o), value: text })) ? "" : text;
}

function askPaste(o) {
  const box = document.getElementById("paste"),
    field = document.getElementById("paste-text"),
    parent = o.tree.nodes.get(pasteTarget(o));
  document.getElementById("paste-where").textContent = parent ? `They go below “${parent.t}”.` : "They go to the top.";
  field.value = o.refused;
  box.onclose = () => {
    if (box.returnValue === "yes") paste(o, field.value);
    box.returnValue = "";
    o.scroll.focus({ preventScroll: true });
  };
  box.showModal();
  field.focus();
}

// What a key does to the entry that is selected; false: nothing, so that the browser may.
const byKey = {
  ArrowDown: (o) => step(o, 1),
  ArrowUp: (o) => step(o, -1),
  PageDown: (o) => step(o, page(o)),
  PageUp: (o) => step(o, -page(o)),
  Home: (o) => step(o, -Infinity),
  End: (o) => step(o, Infinity),
  ArrowRight(o, n) {
    if (n?.kids.length && folds(o) && !isOpenAt(o, n)) toggle(o, n.id);
    else if (n && o.state.cols.length) o.cell.enter(o.state.cols[0]);
  },
  ArrowLeft(o, n) {
    if (n && folds(o) && isOpenAt(o, n)) toggle(o, n.id);
    else if (n?.p) select(o, n.p);
  },
  Enter: rename,
  F2: rename,
  n: (o) => add(o, false),
  N: (o) => add(o, true),
  Escape: (o) => many(o) && select(o, o.state.selected, true),
  Delete: (o) => run(o, "remove"),
  m: (o) => run(o, "move"),
  t(o) {
    o.find.focus();
    o.find.select();
  },
  b: chooseBelow,
  c: (o) => run(o, "copy"),
  s: (o) => run(o, "sort"),
  S: (o) => run(o, "sort-all"),
  o(o, n) {
    if (isPage(n)) location.href = o.root.dataset.pages + "/" + encodeURIComponent(n.id);
  },
  f: (o) => o.plan.goToFacts(),
  "?": (o) => run(o, "keys"),
};
const onOneOnly = ["n", "N", "Enter", "F2", "c", "s", "S", "o", "b"];

const page = (o) => Math.floor(o.scroll.clientHeight / ROW) - 1;
const folds = (o) => !narrowed(o) && !o.state.sort;
const isOpenAt = (o, n) => isOpen(o, n, o.state.visible[indexOf(o, n.id)]?.depth || 1);

export function onKey(o, e) {
  if (e.target !== o.scroll) return;
  if (takesKey(o, e)) e.preventDefault();
}

function takesKey(o, e) {
  const command = e.ctrlKey || e.metaKey;
  if (o.plan.pending() && (e.key === "Enter" || e.key === "Escape")) {
    e.key === "Enter" ? o.plan.confirmPending() : o.plan.leavePending();
    return true;
  }
  if (command && withCommand(o, e)) return true;
  if (o.cell.onKey(e)) return true;
  if (command) return false;
  if (e.shiftKey && (e.key === "ArrowDown" || e.key === "ArrowUp")) {
    chooseStep(o, e.key === "ArrowDown" ? 1 : -1);
    return true;
  }
  if (e.altKey) return withAlt(o, e);
  if (many(o) && onOneOnly.includes(e.key)) {
    say("This works on one entry; press Esc to go back to one.");
    return true;
  }
  if (/^[1-9]$/.test(e.key)) openTo(o, Number(e.key));
  else if (Object.hasOwn(byKey, e.key)) byKey[e.key](o, node(o));
  else return false;
  return true;
}

function withCommand(o, e) {
  const key = e.key.toLowerCase();
  if (key === "z") run(o, e.shiftKey ? "redo" : "undo");
  else if (key === "y") run(o, "redo");
  else if (key === "a") chooseAll(o);
  else return false;
  return true;
}

function withAlt(o, e) {
  const dir = { ArrowUp: "up", ArrowDown: "down", ArrowRight: "in", ArrowLeft: "out" }[e.key];
  if (!dir || !node(o)) return false;
  stepTree(o, dir);
  return true;
}

export function onClick(o, e) {
  const row = e.target.closest(".o-row");
  if (!row || e.target.closest("input, select")) return;
  if (e.detail > 1 && row.dataset.id === o.state.selected) return; // the row stays for the double click that follows
  if (e.target.closest("[data-twist]") && o.tree.nodes.get(row.dataset.id).kids.length)
    return toggle(o, row.dataset.id);
  o.state.col = e.target.closest(".can")?.dataset.col || null;
  o.state.byClick = true; // letters and Delete are for the row then
  if (e.shiftKey) return chooseTo(o, row.dataset.id);
  if (e.ctrlKey || e.metaKey) return chooseAlso(o, row.dataset.id);
  if (o.plan.pending() && o.plan.pending().id !== row.dataset.id) o.plan.dropPending();
  select(o, row.dataset.id, true);
}
