// Cells of the outline: the cursor in them, editing, copying and filling. What they know is one object, k.
import { columns, writable, editorOf } from "./columns.js";
import { say } from "../../shared/say.js";

const tooMany = "Paste or fill at most 5,000 cells at once.";

// view: state, tree, node(), select(id), rows() what is in sight, names(), act(form), draw(), step(delta), focus(),
// chosen() the ids chosen, in the order in which they stand.
export function cells(view) {
  const k = { view, state: view.state };
  return {
    enter: (id) => enter(k, id),
    leave: () => leave(k),
    onKey: (e) => onKey(k, e),
    edit: (n, col, typed) => edit(k, n, col, typed),
    copied: () => copied(k),
    paste: (text) => paste(k, text),
  };
}

const at = (k) => columns[k.state.col];

const shown = (k) => k.state.cols;

// --- the cursor ---
function enter(k, id) {
  k.state.byClick = false;
  k.state.col = id;
  k.view.draw();
}

function leave(k) {
  k.state.col = null;
  k.view.draw();
}

function across(k, delta) {
  const i = shown(k).indexOf(k.state.col) + delta;
  if (i < 0) leave(k);
  else enter(k, shown(k)[Math.min(i, shown(k).length - 1)]);
}

// onKey takes the keys that mean something in a cell, and tells so.
function onKey(k, e) {
  if (!k.state.col) return false;
  const n = k.view.node(),
    command = e.ctrlKey || e.metaKey;
  if (command && e.key.toLowerCase() === "d") return (fillDown(k), true);
  if (command || e.altKey) return false;
  switch (e.key) {
    case "ArrowRight":
      across(k, 1);
      return true;
    case "ArrowLeft":
      across(k, -1);
      return true;
    case "Home":
      enter(k, shown(k)[0]);
      return true;
    case "End":
      enter(k, shown(k).at(-1));
      return true;
    case "Escape":
      leave(k);
      return true;
    case "Enter":
    case "F2":
      edit(k, n, k.state.col);
      return true;
    case "Delete":
    case "Backspace":
      if (k.state.byClick) return false;
      clear(k);
      return true;
  }
  return false;
}

// --- editing ---
function edit(k, n, col, typed) {
  // typed: what was refused before
  if (!n) return;
  if (!writable(columns[col], n)) return say(`${columns[col].label} of this entry cannot be edited here.`);
  k.state.editing = { id: n.id, col, field: field(k, n, col, typed) };
  k.view.draw();
  const f = k.state.editing.field;
  f.scrollIntoView({ block: "nearest" });
  if (!f.select) return;
  if (typed === undefined) f.select();
  else f.setSelectionRange(f.value.length, f.value.length);
}

function field(k, n, col, typed) {
  const f = editorOf(col, n, k.view.names(), typed);
  const ids = col === "title" ? [n.id] : chosen(k, n); // whatever is chosen by the time it is saved
  const began = typed === undefined ? f.value : null,
    was = columns[col].value(n); // when writing began; others may change it meanwhile
  let over = false;
  const end = (save, go) => {
    if (over) return;
    over = true;
    const value = f.value.trim();
    k.state.editing = null;
    if (save && f.value !== began && value !== columns[col].value(n)) {
      write(k, columns[col].fact, same(k, value, ids, columns[col]), was)?.then((answer) => {
        if (answer === null) again(k, n.id, col, value);
      });
    }
    if (go === "down") k.view.step(1);
    else if (go && go !== "elsewhere" && col !== "title") across(k, go === "right" ? 1 : -1);
    k.view.draw();
    if (go !== "elsewhere") k.view.focus();
  };
  f.addEventListener("keydown", (e) => {
    e.stopPropagation();
    if (e.key === "Enter" && !(e.shiftKey && f.tagName === "TEXTAREA")) {
      e.preventDefault();
      end(true, k.state.chosen.size > 1 || col === "title" ? "" : "down");
    }
    if (e.key === "Tab") {
      e.preventDefault();
      end(true, e.shiftKey ? "left" : "right");
    }
    if (e.key === "Escape") end(false);
  });
  f.addEventListener("focusout", () =>
    setTimeout(() => {
      if (!f.contains(document.activeElement) && document.hasFocus() && f.isConnected) end(true, "elsewhere");
    }, 80),
  );
  return f;
}

// again opens a cell whose text was refused, so that it is not lost; unless
// somebody is writing elsewhere by now.
function again(k, id, col, value) {
  const n = k.view.tree.nodes.get(id);
  if (!n || k.state.editing) return;
  k.view.select(id);
  k.state.col = col === "title" ? null : col;
  edit(k, n, col, value);
}

// chosen are the entries that a cell of one of them stands for.
const chosen = (k, n) => (k.state.chosen.size > 1 ? k.view.chosen() : [n.id]);

// same gives a value to entries, where it can be written.
const same = (k, value, ids, column) =>
  Object.fromEntries(
    ids
      .filter((id) => k.view.tree.nodes.has(id) && writable(column, k.view.tree.nodes.get(id)))
      .map((id) => [id, value]),
  );

function write(k, fact, values, was) {
  const ids = Object.keys(values);
  if (!ids.length) return;
  if (ids.length > 5000) return say(tooMany, true);
  const [id] = ids,
    value = values[id];
  const one = { do: fact === "title" ? "retitle" : "fact", field: fact, was };
  return k.view.act(
    ids.length === 1 ? { ...one, id, value, stay: true } : { do: "facts", field: fact, values, stay: true },
  );
}

function clear(k) {
  if (!at(k).clears) return say(`${at(k).label} cannot be empty.`);
  write(k, at(k).fact, same(k, "", chosen(k, k.view.node()), at(k)));
}

// --- copying and filling ---
function fillDown(k) {
  const [first, ...rest] = k.view.chosen().map((id) => k.view.tree.nodes.get(id));
  if (!rest.length) return say("Select several entries with Shift and the arrows, then fill them from the first.");
  if (!writable(at(k), first)) return say(`${at(k)?.label || "This"} cannot be filled from this entry.`);
  const value = at(k).value(first);
  write(k, at(k).fact, Object.fromEntries(rest.filter((n) => writable(at(k), n)).map((n) => [n.id, value])));
}

// copied is what the clipboard gets of the cells, or null outside them.
function copied(k) {
  if (!k.state.col || !at(k).value) return null;
  const ids = k.state.chosen.size > 1 ? k.view.chosen() : [k.state.selected];
  return ids
    .map((id) =>
      at(k)
        .value(k.view.tree.nodes.get(id))
        .replace(/[\r\n\t]+/g, " "),
    )
    .join("\n");
}

// paste fills the cells from here down, and with tabs to the right; one value
// goes to all that is chosen.
function paste(k, text) {
  const lines = text
    .replace(/\r\n?/g, "\n")
    .replace(/\n$/, "")
    .split("\n")
    .map((l) => l.split("\t"));
  if (lines.length === 1 && lines[0].length === 1)
    return void write(k, at(k).fact, same(k, lines[0][0].trim(), chosen(k, k.view.node()), at(k)));
  const rows = k.view.rows(),
    from = rows.findIndex((r) => r.node.id === k.state.selected),
    first = shown(k).indexOf(k.state.col);
  const on = rows
    .slice(from)
    .filter((r) => !r.faint)
    .slice(0, lines.length);
  if (lines.length > on.length) say(`${lines.length - on.length} lines had no matching entry and were skipped.`, true);
  for (let c = 0; c < Math.max(...lines.map((l) => l.length)) && first + c < shown(k).length; c++) {
    const column = columns[shown(k)[first + c]],
      values = {};
    on.forEach(({ node: n }, i) => {
      if (lines[i][c] !== undefined && writable(column, n)) values[n.id] = lines[i][c].trim();
    });
    write(k, column.fact, values);
  }
}
