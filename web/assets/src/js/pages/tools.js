// The quiet line of text styles: what is written next, and what is selected, takes them.
import { Selection, TextSelection } from "prosemirror-state";
import {
  tableEditing,
  goToNextCell,
  addColumnAfter,
  addColumnBefore,
  addRowAfter,
  addRowBefore,
  deleteColumn,
  deleteRow,
  deleteTable,
  isInTable,
  toggleHeaderColumn,
  selectedRect,
} from "prosemirror-tables";
import { toggleMark, setBlockType, wrapIn, lift, chainCommands, exitCode } from "prosemirror-commands";
import { wrapInList, splitListItem, liftListItem, sinkListItem } from "prosemirror-schema-list";
import { inputRules, wrappingInputRule, textblockTypeInputRule } from "prosemirror-inputrules";
import { keymap } from "prosemirror-keymap";
import { el } from "../shared/say.js";
import { askLink } from "./link.js";
import { emptyText, intoSlot, removeSelected, selectMore } from "./blocks.js";

export { tableEditing };

export const typing = (schema) =>
  inputRules({
    rules: [
      wrappingInputRule(/^\s*>\s$/, schema.nodes.blockquote),
      wrappingInputRule(/^\s*([-*])\s$/, schema.nodes.bullet_list),
      wrappingInputRule(
        /^(\d+)\.\s$/,
        schema.nodes.ordered_list,
        (m) => ({ order: +m[1] }),
        (m, n) => n.childCount + n.attrs.order === +m[1],
      ),
      textblockTypeInputRule(/^(#{2,4})\s$/, schema.nodes.heading, (m) => ({ level: m[1].length })),
    ],
  });

// --- what the selection is in ---

const within = (state, type) => {
  for (let d = state.selection.$from.depth; d > 0; d--) if (state.selection.$from.node(d).type === type) return true;
  return false;
};
const active = (state, type, attrs) => {
  const { $from, to, node } = state.selection;
  return node ? node.hasMarkup(type, attrs) : to <= $from.end() && $from.parent.hasMarkup(type, attrs);
};
const marked = (state, mark) => {
  const { from, $from, to, empty } = state.selection;
  return empty ? !!mark.isInSet(state.storedMarks || $from.marks()) : state.doc.rangeHasMark(from, to, mark);
};

// inProse tells whether the selection is in a text that can have styles, and not in source text.
const inProse = (state) => {
  const { $from } = state.selection;
  if (!$from.parent.inlineContent || $from.parent.type.spec.code) return false;
  for (let d = $from.depth; d > 0; d--) if ($from.node(d).type.spec.group?.includes("prose")) return true;
  return false;
};
const mayHoldTable = (state) =>
  inProse(state) &&
  !isInTable(state) &&
  !within(state, state.schema.nodes.list_item) &&
  !within(state, state.schema.nodes.blockquote);

// --- commands ---

function insertTable(state, dispatch) {
  const { table, table_row, table_header, table_cell } = state.schema.nodes;
  if (!mayHoldTable(state)) return false;
  if (!dispatch) return true;
  const row = (type) =>
    table_row.create(
      null,
      [0, 1, 2].map(() => type.create()),
    );
  const made = table.create(null, [row(table_header), row(table_cell), row(table_cell)]),
    at = state.selection.from,
    tr = state.tr.replaceSelectionWith(made);
  let first = null; // its first cell is where one goes on
  tr.doc.nodesBetween(Math.max(0, at - 2), Math.min(tr.doc.content.size, at + 8), (node, pos) => {
    if (first === null && node.type === table_header && !node.content.size) first = pos;
  });
  if (first !== null) tr.setSelection(TextSelection.create(tr.doc, first + 1));
  dispatch(tr.scrollIntoView());
  return true;
}

// nextCell goes to the next cell; behind the last one comes a new row.
function nextCell(state, dispatch, view) {
  if (!isInTable(state)) return false;
  if (goToNextCell(1)(state, dispatch)) return true;
  if (!dispatch) return true;
  addRowAfter(state, dispatch);
  return goToNextCell(1)(view.state, view.dispatch);
}

// align brings the column in which the caret is to one side.
const align = (side) => (state, dispatch) => {
  if (!isInTable(state)) return false;
  if (!dispatch) return true;
  const rect = selectedRect(state),
    tr = state.tr;
  for (let row = 0; row < rect.map.height; row++)
    for (let col = rect.left; col < rect.right; col++) {
      const pos = rect.tableStart + rect.map.map[row * rect.map.width + col];
      tr.setNodeAttribute(pos, "align", side);
    }
  dispatch(tr);
  return true;
};

const toggleList = (type, checked) => (state, dispatch) => {
  const { list_item } = state.schema.nodes;
  if (checked === null && within(state, type) && !task(state)) return liftListItem(list_item)(state, dispatch);
  if (within(state, list_item)) return setItems(checked)(state, dispatch);
  if (checked === null) return wrapInList(type)(state, dispatch);
  return wrapInList(type)(state, dispatch && ((tr) => dispatch(tasked(tr, checked))));
};
const task = (state) => {
  const item = itemOf(state);
  return item && item.node.attrs.checked !== null;
};
const itemOf = (state) => {
  const { $from } = state.selection;
  for (let d = $from.depth; d > 0; d--)
    if ($from.node(d).type.name === "list_item") return { node: $from.node(d), pos: $from.before(d) };
  return null;
};
function tasked(tr, checked) {
  const { from, to } = tr.selection;
  tr.doc.nodesBetween(from, to, (node, pos) => {
    if (node.type.name === "list_item") tr.setNodeAttribute(pos, "checked", checked);
  });
  return tr;
}
const setItems = (checked) => (state, dispatch) => {
  const item = itemOf(state);
  if (!item) return false;
  dispatch?.(tasked(state.tr, item.node.attrs.checked !== null && checked !== null ? null : checked));
  return true;
};

// nextItem begins the next item of a list: of tasks one that is to do.
const nextItem = (state, dispatch) =>
  splitListItem(state.schema.nodes.list_item, { checked: task(state) ? false : null })(state, dispatch);

// tick turns the box of a task over, where it was clicked.
export function tick(view, event) {
  const li = event.target;
  if (!li.matches?.("li.to-do") || event.offsetX >= 0 || !view.editable) return false;
  const pos = view.posAtDOM(li, 0) - 1,
    item = view.state.doc.nodeAt(pos);
  if (item?.type.name !== "list_item") return false;
  view.dispatch(view.state.tr.setNodeAttribute(pos, "checked", !item.attrs.checked));
  return true;
}

const toggleQuote = (state, dispatch) =>
  within(state, state.schema.nodes.blockquote)
    ? lift(state, dispatch)
    : wrapIn(state.schema.nodes.blockquote)(state, dispatch);

const styles = [
  ["Text", (s) => setBlockType(s.nodes.paragraph), (state, s) => active(state, s.nodes.paragraph)],
  [
    "Heading",
    (s) => setBlockType(s.nodes.heading, { level: 2 }),
    (state, s) => active(state, s.nodes.heading, { level: 2 }),
  ],
  [
    "Smaller heading",
    (s) => setBlockType(s.nodes.heading, { level: 3 }),
    (state, s) => active(state, s.nodes.heading, { level: 3 }),
  ],
  [
    "Smallest heading",
    (s) => setBlockType(s.nodes.heading, { level: 4 }),
    (state, s) => active(state, s.nodes.heading, { level: 4 }),
  ],
  ["Code", (s) => setBlockType(s.nodes.code_block), (state, s) => active(state, s.nodes.code_block)],
];

const tools = (s) => [
  ["Bold (Ctrl+B)", "B", toggleMark(s.marks.strong), (st) => marked(st, s.marks.strong)],
  ["Italic (Ctrl+I)", "I", toggleMark(s.marks.em), (st) => marked(st, s.marks.em)],
  ["Strike", "Strike", toggleMark(s.marks.strike), (st) => marked(st, s.marks.strike)],
  ["Code in a line", "Code", toggleMark(s.marks.code), (st) => marked(st, s.marks.code)],
  ["List", "List", toggleList(s.nodes.bullet_list, null), (st) => within(st, s.nodes.bullet_list) && !task(st)],
  [
    "Numbers: numbered list",
    "Numbers",
    toggleList(s.nodes.ordered_list, null),
    (st) => within(st, s.nodes.ordered_list),
  ],
  ["Tasks to tick", "Tasks", toggleList(s.nodes.bullet_list, false), (st) => !!task(st)],
  ["Quote", "Quote", toggleQuote, (st) => within(st, s.nodes.blockquote)],
  ["Table", "Table", insertTable, () => false],
  ["Rule: a line across", "Rule", rule, () => false],
];

function rule(state, dispatch) {
  if (!inProse(state) || isInTable(state)) return false;
  dispatch?.(state.tr.replaceSelectionWith(state.schema.nodes.horizontal_rule.create()).scrollIntoView());
  return true;
}

const tableTools = [
  ["Row above", addRowBefore],
  ["Row below", addRowAfter],
  ["Column before", addColumnBefore],
  ["Column after", addColumnAfter],
  ["Remove row", deleteRow],
  ["Remove column", deleteColumn],
  ["Head in first column", toggleHeaderColumn],
  ["Left", align(null)],
  ["Middle", align("center")],
  ["Right", align("right")],
  ["Remove table", deleteTable],
];

// toEnd goes to the first or the last text of the page. A browser by itself stops at what it may not write at.
const toEnd = (way, selects) => (state, dispatch) => {
  const end = way < 0 ? Selection.atStart(state.doc) : Selection.atEnd(state.doc);
  const to = selects ? TextSelection.between(state.selection.$anchor, end.$head) : end;
  dispatch?.(state.tr.setSelection(to).scrollIntoView());
  return true;
};

export const keysOf = (x) => {
  const s = x.schema;
  return keymap({
    "Mod-z": () => x.past.undo(),
    "Mod-y": () => x.past.redo(),
    "Mod-Shift-z": () => x.past.redo(),
    "Mod-b": toggleMark(s.marks.strong),
    "Mod-i": toggleMark(s.marks.em),
    "Mod-k": () => askLink(x),
    "Mod-a": selectMore,
    "Mod-Home": toEnd(-1),
    "Mod-End": toEnd(1),
    "Shift-Mod-Home": toEnd(-1, true),
    "Shift-Mod-End": toEnd(1, true),
    "Mod-Enter": () => x.addBelow(),
    Enter: chainCommands(() => intoSlot(x), nextItem),
    Backspace: chainCommands(emptyText, removeSelected),
    Delete: chainCommands(emptyText, removeSelected),
    "Mod-[": liftListItem(s.nodes.list_item),
    "Mod-]": sinkListItem(s.nodes.list_item),
    Tab: chainCommands(nextCell, sinkListItem(s.nodes.list_item)),
    "Shift-Tab": chainCommands((st, d) => isInTable(st) && goToNextCell(-1)(st, d), liftListItem(s.nodes.list_item)),
    "Shift-Enter": chainCommands(exitCode, (st, d) => {
      if (!st.selection.$from.parent.type.contentMatch.matchType(s.nodes.hard_break)) return false;
      d?.(st.tr.replaceSelectionWith(s.nodes.hard_break.create()).scrollIntoView());
      return true;
    }),
  });
};

// --- the line ---

// makeTools draws the line into its place; again shows how things stand.
export function makeTools(x, bar) {
  const does = (command) => () => {
    command(x.view.state, x.view.dispatch, x.view);
    x.view.focus();
  };
  const button = (title, words, run) =>
    el(
      "button",
      {
        type: "button",
        class: "tool",
        title,
        "aria-label": title,
        onmousedown: (e) => e.preventDefault(),
        onclick: run,
      },
      words,
    );
  const style = el(
    "select",
    { class: "tool-style", "aria-label": "Style of the paragraph" },
    ...styles.map(([name]) => el("option", {}, name)),
  );
  style.addEventListener("change", () => does(styles[style.selectedIndex][1](x.schema))());
  const list = tools(x.schema).map(([title, words, command, isOn]) => ({
    b: button(title, words, does(command)),
    command,
    isOn,
  }));
  const link = button("Link (Ctrl+K)", "Link", () => askLink(x));
  const inTable = el(
    "span",
    { class: "tool-row", hidden: true },
    ...tableTools.map(([words, command]) => button(words, words, does(command))),
  );
  bar.prepend(el("span", { class: "tool-row" }, style, ...list.map((t) => t.b), link), inTable);
  return () => {
    const { state } = x.view,
      on = x.editable() && inProse(state);
    style.disabled = !on;
    const at = styles.findIndex(([, , is]) => is(state, x.schema));
    style.selectedIndex = Math.max(0, at);
    for (const t of list) {
      t.b.setAttribute("aria-pressed", String(on && t.isOn(state)));
      t.b.disabled = !on || !(t.isOn(state) || t.command(state));
    }
    link.disabled = !on;
    link.setAttribute("aria-pressed", String(on && marked(state, x.schema.marks.link)));
    inTable.hidden = !on || !isInTable(state);
  };
}
