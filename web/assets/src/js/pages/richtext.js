// The rich-text editor of a text block.
import { EditorState, TextSelection } from "prosemirror-state";
import { EditorView } from "prosemirror-view";
import {
  tableEditing,
  goToNextCell,
  addColumnAfter,
  addRowAfter,
  deleteColumn,
  deleteRow,
  deleteTable,
  isInTable,
} from "prosemirror-tables";
import { history, undo, redo } from "prosemirror-history";
import { keymap } from "prosemirror-keymap";
import { baseKeymap, toggleMark, setBlockType, wrapIn, lift, chainCommands, exitCode } from "prosemirror-commands";
import { wrapInList, splitListItem, liftListItem, sinkListItem } from "prosemirror-schema-list";
import { inputRules, wrappingInputRule, textblockTypeInputRule } from "prosemirror-inputrules";
import { dropCursor } from "prosemirror-dropcursor";
import { gapCursor } from "prosemirror-gapcursor";
import { el, say } from "../shared/say.js";
import { askLink } from "./link.js";
import { parse, schema, serialize } from "./markdown.js";
import { cleanHTML, apart, toPages } from "./paste.js";

const rules = inputRules({
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

function insertTable(state, dispatch) {
  const { table, table_row, table_header, table_cell } = schema.nodes;
  if (!mayHoldTable(state)) return false;
  const row = (type) =>
    table_row.create(
      null,
      [0, 1, 2].map(() => type.create()),
    );
  if (!dispatch) return true;
  const at = state.selection.from,
    tr = state.tr.replaceSelectionWith(table.create(null, [row(table_header), row(table_cell), row(table_cell)]));
  let first = null; // its first cell is where one goes on
  tr.doc.nodesBetween(Math.max(0, at - 2), Math.min(tr.doc.content.size, at + 8), (node, pos) => {
    if (first === null && node.type === table_header && !node.content.size) first = pos;
  });
  if (first !== null) tr.setSelection(TextSelection.create(tr.doc, first + 1));
  dispatch(tr.scrollIntoView());
  return true;
}

// A table stands by itself: CommonMark has none in a list or a quote that every reader shows.
const mayHoldTable = (state) =>
  !isInTable(state) && !within(state, schema.nodes.list_item) && !within(state, schema.nodes.blockquote);

// nextCell goes to the next cell; behind the last one comes a new row.
function nextCell(state, dispatch, view) {
  if (!isInTable(state)) return false;
  if (goToNextCell(1)(state, dispatch)) return true;
  if (!dispatch) return true;
  addRowAfter(state, dispatch);
  return goToNextCell(1)(view.state, view.dispatch);
}

const active = (state, type, attrs) => {
  const { $from, to, node } = state.selection;
  return node ? node.hasMarkup(type, attrs) : to <= $from.end() && $from.parent.hasMarkup(type, attrs);
};
const within = (state, type) => {
  for (let d = state.selection.$from.depth; d > 0; d--) if (state.selection.$from.node(d).type === type) return true;
  return false;
};
const marked = (state, mark) => {
  const { from, $from, to, empty } = state.selection;
  return empty ? !!mark.isInSet(state.storedMarks || $from.marks()) : state.doc.rangeHasMark(from, to, mark);
};
const heading = (level) => (state, dispatch, view) =>
  active(state, schema.nodes.heading, { level })
    ? setBlockType(schema.nodes.paragraph)(state, dispatch)
    : setBlockType(schema.nodes.heading, { level })(state, dispatch, view);
const toggleList = (type) => (state, dispatch) =>
  within(state, type) ? liftListItem(schema.nodes.list_item)(state, dispatch) : wrapInList(type)(state, dispatch);
const toggleQuote = (state, dispatch) =>
  within(state, schema.nodes.blockquote) ? lift(state, dispatch) : wrapIn(schema.nodes.blockquote)(state, dispatch);

const tools = [
  ["Bold", "B", "Ctrl+B", toggleMark(schema.marks.strong), (s) => marked(s, schema.marks.strong)],
  ["Italic", "I", "Ctrl+I", toggleMark(schema.marks.em), (s) => marked(s, schema.marks.em)],
  ["Heading", "Heading", "", heading(2), (s) => active(s, schema.nodes.heading, { level: 2 })],
  ["Smaller heading", "Smaller", "", heading(3), (s) => active(s, schema.nodes.heading, { level: 3 })],
  ["List", "List", "", toggleList(schema.nodes.bullet_list), (s) => within(s, schema.nodes.bullet_list)],
  ["Numbered list", "Numbered", "", toggleList(schema.nodes.ordered_list), (s) => within(s, schema.nodes.ordered_list)],
  ["Quote", "Quote", "", toggleQuote, (s) => within(s, schema.nodes.blockquote)],
  ["Table", "Table", "", insertTable, () => false, (s) => mayHoldTable(s)],
];
const tableTools = [
  ["Row below", "+ row", addRowAfter],
  ["Column after", "+ column", addColumnAfter],
  ["Remove row", "− row", deleteRow],
  ["Remove column", "− column", deleteColumn],
  ["Remove table", "− table", deleteTable],
];

// makeText puts an editor into the page. changed is called with the text.
export function makeText(options) {
  const x = { hosts: [], ...options, place: el("div") };
  drawBar(x);
  x.view = new EditorView(x.place, {
    state: EditorState.create({ doc: parse(x.text), plugins: pluginsOf(x) }),
    editable: x.editable,
    transformPastedHTML(html) {
      const clean = cleanHTML(html, [location.host, ...x.hosts]);
      if (clean.dropped) say(clean.dropped, true);
      return clean.html;
    },
    transformPasted: (slice) => apart(slice, schema),
    attributes: { "aria-label": x.label, role: "textbox", "aria-multiline": "true" },
    dispatchTransaction(tr) {
      x.view.updateState(x.view.state.apply(tr));
      update(x, x.view.state);
      if (tr.docChanged) x.changed(serialize(x.view.state.doc));
      if (tr.getMeta("paste")) toPages(x.view, x.findURL);
    },
  });
  update(x, x.view.state);
  return {
    bar: x.bar,
    place: x.place,
    focus: () => x.view.focus(),
    refresh: () => {
      x.view.setProps({ editable: x.editable });
      update(x, x.view.state);
    },
    destroy: () => x.view.destroy(),
  };
}

const pluginsOf = (x) => [
  rules,
  keymap({
    "Mod-z": undo,
    "Mod-y": redo,
    "Mod-Shift-z": redo,
    "Mod-b": toggleMark(schema.marks.strong),
    "Mod-i": toggleMark(schema.marks.em),
    "Mod-k": () => askLink(x),
    Enter: splitListItem(schema.nodes.list_item),
    "Mod-[": liftListItem(schema.nodes.list_item),
    "Mod-]": sinkListItem(schema.nodes.list_item),
    Tab: nextCell,
    "Shift-Tab": (s, d) => isInTable(s) && goToNextCell(-1)(s, d),
    "Shift-Enter": chainCommands(exitCode, (s, d) => {
      if (d) d(s.tr.replaceSelectionWith(schema.nodes.hard_break.create()).scrollIntoView());
      return true;
    }),
  }),
  keymap(baseKeymap),
  history(),
  dropCursor(),
  gapCursor(),
  tableEditing(),
];

// drawBar makes the line of text styles.
function drawBar(x) {
  const button = (title, label, words, run) =>
    el(
      "button",
      {
        type: "button",
        class: "tool",
        title,
        "aria-label": label,
        onmousedown: (e) => e.preventDefault(), // the text stays in focus
        onclick: run,
      },
      words,
    );
  const does = (command) => () => {
    command(x.view.state, x.view.dispatch, x.view);
    x.view.focus();
  };
  x.buttons = tools.map(([name, face, shortcut, command, isOn, may]) => {
    const label = name.toLowerCase().includes(face.toLowerCase()) ? name : `${face}: ${name}`;
    return { b: button(name + (shortcut ? ` (${shortcut})` : ""), label, face, does(command)), isOn, may };
  });
  x.link = button("Link (Ctrl+K)", "Link", "Link", () => askLink(x));
  x.inTable = el(
    "span",
    { hidden: true },
    ...tableTools.map(([name, face, command]) => button(name, name, face, does(command))),
  );
  x.bar = el(
    "span",
    { class: "tools", role: "toolbar", "aria-label": "Form of the text" },
    ...x.buttons.map((t) => t.b),
    x.link,
    x.inTable,
  );
}

function update(x, state) {
  for (const { b, isOn, may } of x.buttons) {
    b.setAttribute("aria-pressed", String(isOn(state)));
    b.disabled = !x.editable() || (!!may && !may(state));
  }
  x.link.disabled = !x.editable();
  x.link.setAttribute("aria-pressed", String(marked(state, schema.marks.link)));
  x.inTable.hidden = !isInTable(state);
}
