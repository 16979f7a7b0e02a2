// The schema of one page: its template's parts are nodes in their order, slots hold what the template allows, and every kind
// of block of the server's table is a node type.
import { Schema } from "prosemirror-model";
import { proseMarks, proseNodes } from "./prose.js";

// What a kind holds on the page: "prose", "raw" (text as it is typed), "items" (each with prose), "columns", "inside" (blocks, of
// a part of a template), or nothing, where the page shows what is drawn and the settings stand beside it.
export function holds(kind) {
  const has = (fields, key) => fields?.some((f) => f.key === key && f.type === "prose");
  if (kind.inside) return "inside";
  if (kind.type === "source") return "raw";
  if (kind.type === "table") return "";
  if (has(kind.fields, "text")) return "prose";
  if (has(kind.items, "text")) return "items";
  return kind.columns ? "columns" : "";
}

// An item of prose may have a title that is written on the page.
export const titled = (kind) => kind.items?.some((f) => f.key === "title");

const attrs = { id: { default: "" }, from: { default: "" }, set: { default: {} }, items: { default: [] } };
const data = (dom) => {
  try {
    return JSON.parse(dom.getAttribute("data-attrs"));
  } catch {
    return null;
  }
};

function blockNode(kind, kinds) {
  const what = holds(kind),
    tag = `[data-kind="${kind.type}"]`;
  const spec = {
    attrs,
    group: "block",
    draggable: true,
    selectable: true,
    defining: true,
    parseDOM: [{ tag: "div" + tag, getAttrs: data, ...(what === "raw" && { preserveWhitespace: "full" }) }],
    toDOM: (node) => [
      "div",
      { "data-kind": kind.type, "data-attrs": JSON.stringify(node.attrs) },
      ...(what ? [0] : []),
    ],
  };
  if (what === "prose") spec.content = "prose+";
  if (what === "raw") Object.assign(spec, { content: "text*", marks: "", code: true });
  if (what === "items") spec.content = `item_${kind.type}+`;
  if (what === "columns") spec.content = "column column column?";
  if (what === "inside")
    Object.assign(spec, { content: "(" + kinds.blocks.map((k) => nodeOf(k.type)).join(" | ") + ")*" });
  if (what === "inside") Object.assign(spec, { isolating: true, holds: kinds.blocks });
  if (!what) spec.atom = true;
  if (what === "columns")
    kinds.column = {
      content: "(" + kinds.inColumns.map(nodeOf).join(" | ") + ")*",
      isolating: true,
      parseDOM: [{ tag: "div[data-column]" }],
      toDOM: () => ["div", { "data-column": "1" }, 0],
    };
  return spec;
}

const itemNode = (kind) => ({
  content: titled(kind) ? "item_title prose+" : "prose+",
  attrs: { set: { default: {} } },
  defining: true,
  parseDOM: [{ tag: `div[data-item="${kind.type}"]`, getAttrs: data }],
  toDOM: (node) => ["div", { "data-item": kind.type, "data-attrs": JSON.stringify(node.attrs) }, 0],
});

export const nodeOf = (type) => "b_" + type;
export const typeOf = (node) => (node.type.name.startsWith("b_") ? node.type.name.slice(2) : null);
export const partOf = (node) => node.type.spec.part;
// nests tells whether other blocks stand in a block.
export const nests = (node) => node.type.name === "b_columns" || !!node.type.spec.holds;
// isPart tells whether a kind of block stands for a part of a template.
export const isPart = (kind) => kind.type.startsWith("part_");

// makeSchema makes it of the kinds, of the parts of the template, and of what stands in the slots already, which stays
// whatever the template allows now.
export function makeSchema(kinds, parts, slots) {
  const nodes = {
    doc: { content: parts.map((_, i) => "part_" + i).join(" "), attrs: { news: { default: "" } } },
    ...proseNodes,
  };
  const blocks = kinds.filter((k) => !isPart(k)),
    known = { blocks, inColumns: blocks.filter((k) => !k.columns).map((k) => k.type) };
  for (const kind of kinds) {
    nodes[nodeOf(kind.type)] = blockNode(kind, known);
    if (holds(kind) === "items") nodes["item_" + kind.type] = itemNode(kind);
  }
  if (known.column) nodes.column = known.column;
  nodes.item_title = {
    content: "text*",
    marks: "",
    defining: true,
    parseDOM: [{ tag: "div[data-item-title]" }],
    toDOM: () => ["div", { "data-item-title": "1", class: "item-title" }, 0],
  };
  parts.forEach((part, i) => (nodes["part_" + i] = partNode(part, slots)));
  return new Schema({ nodes, marks: proseMarks });
}

function partNode(part, slots) {
  const spec = { part, selectable: false, isolating: true, defining: true, toDOM: () => ["div", { class: "part" }] };
  if (part.kind === "lead") return { ...spec, content: "text*", marks: "", toDOM: () => ["p", 0] };
  if (part.kind !== "slot") return { ...spec, atom: true, attrs: { values: { default: {} } } };
  const takes = new Set([...part.takes, ...(slots[part.key] || []).map((b) => b.type)]);
  return { ...spec, content: "(" + [...takes].map(nodeOf).join(" | ") + ")*", toDOM: () => ["div", 0] };
}
