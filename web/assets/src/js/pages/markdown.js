// CommonMark with tables, as the text of a block is kept: in and out of the document that is edited.
import { Schema } from "prosemirror-model";
import {
  schema as base,
  MarkdownParser,
  MarkdownSerializer,
  defaultMarkdownParser,
  defaultMarkdownSerializer,
} from "prosemirror-markdown";
import { tableNodes } from "prosemirror-tables";

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
    bullet_list: (state, node) => state.renderList(node, "  ", () => "- "),
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
