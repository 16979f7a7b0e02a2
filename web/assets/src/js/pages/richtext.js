// The rich-text editor of a text block: CommonMark with tables in and out.
import { Schema } from "prosemirror-model";
import { EditorState, TextSelection } from "prosemirror-state";
import { EditorView } from "prosemirror-view";
import {
  schema as base,
  MarkdownParser,
  MarkdownSerializer,
  defaultMarkdownParser,
  defaultMarkdownSerializer,
} from "prosemirror-markdown";
import {
  tableNodes,
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
import { el } from "../shared/say.js";
import { suggest } from "../shared/suggest.js";
import { say } from "../shared/say.js";
import { cleanHTML, apart, toPages } from "./paste.js";

const tables = tableNodes({ tableGroup: "block", cellContent: "inline*", cellAttributes: {} });
let nodes = base.spec.nodes;
const picture = nodes.get("image");
nodes = nodes.update("image", { ...picture, parseDOM: [{ ...picture.parseDOM[0], tag: 'img[src^="/files/"]' }] }); // no page shows a picture of another site
nodes = nodes.update("heading", { ...nodes.get("heading"), content: "text*" });
for (const [name, spec] of Object.entries(tables)) nodes = nodes.addToEnd(name, spec);
export const schema = new Schema({ nodes, marks: base.spec.marks });

const tokenizer = defaultMarkdownParser.tokenizer;
tokenizer.enable("table");
const parser = new MarkdownParser(schema, tokenizer, {
  ...defaultMarkdownParser.tokens,
  table: { block: "table" },
  thead: { ignore: true },
  tbody: { ignore: true },
  tr: { block: "table_row" },
  th: { block: "table_header" },
  td: { block: "table_cell" },
});

const cellText = (state, cell) => {
  const inner = new MarkdownSerializer(serializer.nodes, serializer.marks).serialize(
    schema.node("paragraph", null, cell.content),
  );
  return inner.replace(/\\?\n/g, " ").replace(/\|/g, "\\|").trim();
};
const serializer = new MarkdownSerializer(
  {
    ...defaultMarkdownSerializer.nodes,
    table(state, node) {
      node.forEach((row, _, i) => {
        const cells = [];
        row.forEach((cell) => cells.push(cellText(state, cell)));
        state.ensureNewLine();
        state.write("| " + cells.join(" | ") + " |");
        if (i === 0) {
          state.ensureNewLine();
          state.write("|" + " --- |".repeat(cells.length));
        }
      });
      state.closeBlock(node);
    },
    table_row() {},
    table_cell() {},
    table_header() {},
  },
  defaultMarkdownSerializer.marks,
  { strict: false },
);

export const parse = (text) => parser.parse(text || "") || schema.topNodeType.createAndFill();
export const serialize = (doc) => serializer.serialize(doc, { tightLists: true });

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
export function makeText({ text, label, findURL, changed, editable, hosts = [] }) {
  const bar = el("span", { class: "tools", role: "toolbar", "aria-label": "Form of the text" });
  const place = el("div");
  let view;
  const buttons = tools.map(([name, face, shortcut, command, isOn, may]) => {
    const b = el(
      "button",
      {
        type: "button",
        class: "tool",
        title: name + (shortcut ? " (" + shortcut + ")" : ""),
        "aria-label": name.toLowerCase().includes(face.toLowerCase()) ? name : `${face}: ${name}`,
        onmousedown: (e) => e.preventDefault(),
        onclick: () => {
          command(view.state, view.dispatch, view);
          view.focus();
        },
      },
      face,
    );
    return { b, isOn, may };
  });
  const link = el(
    "button",
    {
      type: "button",
      class: "tool",
      title: "Link (Ctrl+K)",
      "aria-label": "Link",
      onmousedown: (e) => e.preventDefault(),
      onclick: () => askLink(),
    },
    "Link",
  );
  const inTable = el(
    "span",
    { hidden: true },
    ...tableTools.map(([name, face, command]) =>
      el(
        "button",
        {
          type: "button",
          class: "tool",
          title: name,
          "aria-label": name,
          onmousedown: (e) => e.preventDefault(),
          onclick: () => {
            command(view.state, view.dispatch);
            view.focus();
          },
        },
        face,
      ),
    ),
  );
  bar.append(...buttons.map((t) => t.b), link, inTable);

  function update(state) {
    for (const { b, isOn, may } of buttons) {
      b.setAttribute("aria-pressed", String(isOn(state)));
      b.disabled = !editable() || (!!may && !may(state));
    }
    link.disabled = !editable();
    link.setAttribute("aria-pressed", String(marked(state, schema.marks.link)));
    inTable.hidden = !isInTable(state);
  }

  function askLink() {
    if (!editable()) return true;
    const { from, to, empty, $from } = view.state.selection;
    const mark = schema.marks.link.isInSet($from.marks()) || (empty ? null : markIn(view.state, from, to));
    const field = el("input", {
      class: "in",
      type: "search",
      "aria-label": "Page, or a URL",
      placeholder: "a page, or https://…",
      autocomplete: "off",
      value: mark && !mark.attrs.href.startsWith("page:") ? mark.attrs.href : "",
    });
    const box = el(
      "div",
      { class: "popover", role: "dialog", "aria-label": "Link" },
      el("label", {}, "Link to a page, or a URL"),
      field,
      el(
        "div",
        { class: "acts" },
        el(
          "button",
          { class: "btn btn-main", type: "button", onclick: () => use(field.value.trim(), "") },
          "Link to this URL",
        ),
        mark
          ? el(
              "button",
              {
                class: "btn",
                type: "button",
                onclick: () => {
                  range((tr, a, b) => tr.removeMark(a, b, schema.marks.link));
                  end();
                },
              },
              "Unlink",
            )
          : null,
        el("button", { class: "btn", type: "button", onclick: () => end() }, "Cancel"),
      ),
    );
    const end = () => {
      box.remove();
      view.focus();
    };
    const range = (change) => {
      let a = from,
        b = to;
      if (empty && mark) {
        const start = $from.parent.childAfter($from.parentOffset);
        if (start.node) {
          a = $from.start() + start.offset;
          b = a + start.node.nodeSize;
        }
      }
      view.dispatch(change(view.state.tr, a, b));
    };
    const use = (href, title) => {
      if (!/^(page:|https?:\/\/|mailto:|tel:|\/)/.test(href)) {
        field.setAttribute("aria-invalid", "true");
        field.focus();
        return;
      }
      const made = schema.marks.link.create({ href });
      if (empty && !mark) view.dispatch(view.state.tr.replaceSelectionWith(schema.text(title || href, [made]), false));
      else range((tr, a, b) => tr.removeMark(a, b, schema.marks.link).addMark(a, b, made));
      end();
    };
    document.body.append(box);
    const at = view.coordsAtPos(from);
    box.style.left = Math.min(at.left, innerWidth - 360) + "px";
    box.style.top = Math.min(at.bottom + 6, innerHeight - 180) + "px";
    suggest(
      field,
      findURL,
      () => ({ only: "page" }),
      (item) => use("page:" + item.id, item.title),
    );
    box.addEventListener("keydown", (e) => {
      if (e.key === "Escape") end();
      if (e.key === "Enter" && e.target === field) {
        e.preventDefault();
        use(field.value.trim(), "");
      }
    });
    field.focus();
    return true;
  }

  view = new EditorView(place, {
    state: EditorState.create({
      doc: parse(text),
      plugins: [
        rules,
        keymap({
          "Mod-z": undo,
          "Mod-y": redo,
          "Mod-Shift-z": redo,
          "Mod-b": toggleMark(schema.marks.strong),
          "Mod-i": toggleMark(schema.marks.em),
          "Mod-k": () => askLink(),
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
      ],
    }),
    editable,
    transformPastedHTML(html) {
      const clean = cleanHTML(html, [location.host, ...hosts]);
      if (clean.dropped) say(clean.dropped, true);
      return clean.html;
    },
    transformPasted: (slice) => apart(slice, schema),
    attributes: { "aria-label": label, role: "textbox", "aria-multiline": "true" },
    dispatchTransaction(tr) {
      view.updateState(view.state.apply(tr));
      update(view.state);
      if (tr.docChanged) changed(serialize(view.state.doc));
      if (tr.getMeta("paste")) toPages(view, findURL);
    },
  });
  update(view.state);
  return {
    bar,
    place,
    focus: () => view.focus(),
    refresh: () => {
      view.setProps({ editable });
      update(view.state);
    },
    destroy: () => view.destroy(),
  };
}

function markIn(state, from, to) {
  let found = null;
  state.doc.nodesBetween(from, to, (n) => {
    found = found || schema.marks.link.isInSet(n.marks);
  });
  return found;
}
