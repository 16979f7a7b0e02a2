// Cells of the outline: the cursor in them, editing, copying and filling.
import { columns, writable, editorOf } from "./columns.js";
import { say } from "../shared/say.js";

const tooMany = "Paste or fill at most 5,000 cells at once.";

// view: state, tree, node(), select(id), rows() what is in sight, names(), act(form), draw(), step(delta), focus(),
// chosen() the ids chosen, in the order in which they stand.
export function cells(view) {
  const { state } = view;
  const at = () => columns[state.col];
  const shown = () => state.cols;

  // --- the cursor ---

  function enter(id) {
    state.byClick = false;
    state.col = id;
    view.draw();
  }
  function leave() {
    state.col = null;
    view.draw();
  }
  function across(delta) {
    const i = shown().indexOf(state.col) + delta;
    if (i < 0) leave();
    else enter(shown()[Math.min(i, shown().length - 1)]);
  }

  // onKey takes the keys that mean something in a cell, and tells so.
  function onKey(e) {
    if (!state.col) return false;
    const n = view.node(),
      command = e.ctrlKey || e.metaKey;
    if (command && e.key.toLowerCase() === "d") return (fillDown(), true);
    if (command || e.altKey) return false;
    switch (e.key) {
      case "ArrowRight":
        across(1);
        return true;
      case "ArrowLeft":
        across(-1);
        return true;
      case "Home":
        enter(shown()[0]);
        return true;
      case "End":
        enter(shown().at(-1));
        return true;
      case "Escape":
        leave();
        return true;
      case "Enter":
      case "F2":
        edit(n, state.col);
        return true;
      case "Delete":
      case "Backspace":
        if (state.byClick) return false;
        clear();
        return true;
    }
    return false;
  }

  // --- editing ---

  function edit(n, col, typed) {
    // typed: what was refused before
    if (!n) return;
    if (!writable(columns[col], n)) return say(`${columns[col].label} of this entry cannot be edited here.`);
    state.editing = { id: n.id, col, field: field(n, col, typed) };
    view.draw();
    const f = state.editing.field;
    f.scrollIntoView({ block: "nearest" });
    if (!f.select) return;
    if (typed === undefined) f.select();
    else f.setSelectionRange(f.value.length, f.value.length);
  }

  function field(n, col, typed) {
    const f = editorOf(col, n, view.names(), typed);
    const ids = col === "title" ? [n.id] : chosen(n); // whatever is chosen by the time it is saved
    const began = typed === undefined ? f.value : null;
    let over = false;
    const end = (save, go) => {
      if (over) return;
      over = true;
      const value = f.value.trim();
      state.editing = null;
      if (save && f.value !== began && value !== columns[col].value(n)) {
        write(columns[col].fact, same(value, ids, columns[col]))?.then((answer) => {
          if (answer === null) again(n.id, col, value);
        });
      }
      if (go === "down") view.step(1);
      else if (go && go !== "elsewhere" && col !== "title") across(go === "right" ? 1 : -1);
      view.draw();
      if (go !== "elsewhere") view.focus();
    };
    f.addEventListener("keydown", (e) => {
      e.stopPropagation();
      if (e.key === "Enter" && !(e.shiftKey && f.tagName === "TEXTAREA")) {
        e.preventDefault();
        end(true, state.chosen.size > 1 || col === "title" ? "" : "down");
      }
      if (e.key === "Tab") {
        e.preventDefault();
        end(true, e.shiftKey ? "left" : "right");
      }
      if (e.key === "Escape") end(false);
    });
    f.addEventListener("blur", () =>
      setTimeout(() => {
        if (document.activeElement !== f && document.hasFocus() && f.isConnected) end(true, "elsewhere");
      }, 80),
    );
    return f;
  }

  // again opens a cell whose text was refused, so that it is not lost; unless
  // somebody is writing elsewhere by now.
  function again(id, col, value) {
    const n = view.tree.nodes.get(id);
    if (!n || state.editing) return;
    view.select(id);
    state.col = col === "title" ? null : col;
    edit(n, col, value);
  }

  // chosen are the entries that a cell of one of them stands for.
  const chosen = (n) => (state.chosen.size > 1 ? view.chosen() : [n.id]);

  // same gives a value to entries, where it can be written.
  const same = (value, ids, column) =>
    Object.fromEntries(
      ids.filter((id) => view.tree.nodes.has(id) && writable(column, view.tree.nodes.get(id))).map((id) => [id, value]),
    );

  function write(fact, values) {
    const ids = Object.keys(values);
    if (!ids.length) return;
    if (ids.length > 5000) return say(tooMany, true);
    const [id] = ids,
      value = values[id];
    const one = fact === "title" ? { do: "retitle" } : { do: "fact", field: fact };
    return view.act(
      ids.length === 1 ? { ...one, id, value, stay: true } : { do: "facts", field: fact, values, stay: true },
    );
  }

  function clear() {
    if (!at().clears) return say(`${at().label} cannot be empty.`);
    write(at().fact, same("", chosen(view.node()), at()));
  }

  // --- copying and filling ---

  function fillDown() {
    const [first, ...rest] = view.chosen().map((id) => view.tree.nodes.get(id));
    if (!rest.length) return say("Select several entries with Shift and the arrows, then fill them from the first.");
    if (!writable(at(), first)) return say(`${at()?.label || "This"} cannot be filled from this entry.`);
    const value = at().value(first);
    write(at().fact, Object.fromEntries(rest.filter((n) => writable(at(), n)).map((n) => [n.id, value])));
  }

  // copied is what the clipboard gets of the cells, or null outside them.
  function copied() {
    if (!state.col || !at().value) return null;
    const ids = state.chosen.size > 1 ? view.chosen() : [state.selected];
    return ids
      .map((id) =>
        at()
          .value(view.tree.nodes.get(id))
          .replace(/[\r\n\t]+/g, " "),
      )
      .join("\n");
  }

  // paste fills the cells from here down, and with tabs to the right; one value
  // goes to all that is chosen.
  function paste(text) {
    const lines = text
      .replace(/\r\n?/g, "\n")
      .replace(/\n$/, "")
      .split("\n")
      .map((l) => l.split("\t"));
    if (lines.length === 1 && lines[0].length === 1)
      return void write(at().fact, same(lines[0][0].trim(), chosen(view.node()), at()));
    const rows = view.rows(),
      from = rows.findIndex((r) => r.node.id === state.selected),
      first = shown().indexOf(state.col);
    const on = rows
      .slice(from)
      .filter((r) => !r.faint)
      .slice(0, lines.length);
    if (lines.length > on.length)
      say(`${lines.length - on.length} lines had no matching entry and were skipped.`, true);
    for (let c = 0; c < Math.max(...lines.map((l) => l.length)) && first + c < shown().length; c++) {
      const column = columns[shown()[first + c]],
        values = {};
      on.forEach(({ node: n }, i) => {
        if (lines[i][c] !== undefined && writable(column, n)) values[n.id] = lines[i][c].trim();
      });
      write(column.fact, values);
    }
  }

  return { enter, leave, onKey, edit, copied, paste };
}
