// A page as it is kept, in and out of the document that is edited. Fields and slots that the template does not show are kept
// beside it and come back as they were.
import { Fragment } from "prosemirror-model";
import { parse, serialize } from "./markdown.js";
import { holds, nodeOf, partOf, titled, typeOf } from "./schema.js";

// A page is what is edited, known by its schema, the kinds of block and the parts of the template.
export function makePages(schema, kinds, parts) {
  const p = {
    schema,
    kinds: Object.fromEntries(kinds.map((k) => [k.type, k])),
    parts,
    rest: { fields: {}, slots: {} },
    // What a text was written like: as long as it means the same, it is not written anew.
    written: new Map(),
    blocks: new WeakMap(), // of nodes that were read already
  };
  return {
    toDoc: (page) => toDoc(p, page),
    fromDoc: (doc) => fromDoc(p, doc),
    same: (page, doc) => same(p, page, doc),
    block: (node) => blockOf(p, node),
    node: (b) => nodeFor(p, b),
  };
}

// --- in ---

// The day on which a page goes out as news is part of its document, and so of what is undone.
const newsDay = "news:day";

function toDoc(p, page) {
  const shown = new Set([
    "f " + newsDay,
    ...p.parts.flatMap((t) => (t.kind === "slot" ? ["s " + t.key] : (t.fields || []).map((f) => "f " + f.key))),
  ]);
  p.rest = {
    fields: Object.fromEntries(Object.entries(page.fields || {}).filter(([k]) => !shown.has("f " + k))),
    slots: Object.fromEntries(Object.entries(page.slots || {}).filter(([k]) => !shown.has("s " + k))),
  };
  const nodes = p.parts.map((part, i) => {
    const type = p.schema.nodes["part_" + i];
    if (part.kind === "lead") return type.create(null, text(p, page.fields?.[part.fields[0].key]));
    if (part.kind === "facts")
      return type.create({ values: Object.fromEntries(part.fields.map((f) => [f.key, page.fields?.[f.key] || ""])) });
    if (part.kind === "fixed") return type.create();
    return type.create(
      null,
      (page.slots?.[part.key] || []).map((b) => nodeFor(p, b)),
    );
  });
  return p.schema.topNodeType.create({ news: page.fields?.[newsDay] || "" }, nodes);
}

const text = (p, words) => (words ? p.schema.text(words) : null);

// prose gives the nodes of a text; an empty one has a paragraph to write in.
function prose(p, words) {
  const nodes = Fragment.fromJSON(p.schema, parse(words));
  p.written.set(
    serialize({ forEach: (f) => nodes.forEach(f), child: (i) => nodes.child(i), childCount: nodes.childCount }),
    words,
  );
  return nodes.size ? nodes : Fragment.from(p.schema.nodes.paragraph.create());
}

function nodeFor(p, b) {
  const kind = p.kinds[b.type],
    type = p.schema.nodes[nodeOf(b.type)],
    attrs = { id: b.id || "", from: b.from || "", set: b.set || {}, items: [] };
  switch (holds(kind)) {
    case "prose":
      return type.create(attrs, prose(p, b.text));
    case "raw":
      return type.create(attrs, text(p, b.text));
    case "items":
      return type.create(
        attrs,
        (b.items?.length ? b.items : [{}]).map((it) => itemFor(p, kind, it)),
      );
    case "inside":
      return type.create(
        attrs,
        (b.columns?.[0] || []).map((c) => nodeFor(p, c)),
      );
    case "columns":
      return type.create(
        attrs,
        [0, 1, 2].slice(0, Math.max(2, b.columns?.length || 0)).map((i) =>
          p.schema.nodes.column.create(
            null,
            (b.columns?.[i] || []).map((c) => nodeFor(p, c)),
          ),
        ),
      );
  }
  return type.create({ ...attrs, set: { ...attrs.set, ...(b.text && { text: b.text }) }, items: b.items || [] });
}

function itemFor(p, kind, values) {
  const { text: words, title, ...set } = values;
  const body = prose(p, words);
  const head = titled(kind) ? [p.schema.nodes.item_title.create(null, text(p, title))] : [];
  return p.schema.nodes["item_" + kind.type].create({ set }, Fragment.from(head).append(body));
}

// same tells whether a page is what a document shows.
function same(p, page, doc) {
  const { rest } = p,
    shown = toDoc(p, page).eq(doc);
  p.rest = rest;
  return shown;
}

// --- out ---

function fromDoc(p, doc) {
  const page = { fields: { ...p.rest.fields }, slots: { ...p.rest.slots } };
  if (doc.attrs.news) page.fields[newsDay] = doc.attrs.news;
  doc.forEach((node) => {
    const part = partOf(node);
    if (part.kind === "lead") page.fields[part.fields[0].key] = node.textContent;
    if (part.kind === "facts") Object.assign(page.fields, node.attrs.values);
    if (part.kind === "slot") page.slots[part.key] = blocksOf(p, node);
  });
  return page;
}

function blocksOf(p, node) {
  const out = [];
  node.forEach((child) => out.push(blockOf(p, child)));
  return out;
}

function blockOf(p, node) {
  let b = p.blocks.get(node);
  if (!b) p.blocks.set(node, (b = readBlock(p, node)));
  return b;
}

function readBlock(p, node) {
  const kind = p.kinds[typeOf(node)],
    { id, from, set, items } = node.attrs,
    b = { id, type: kind.type };
  if (from) b.from = from;
  if (Object.keys(set).length) b.set = set;
  switch (holds(kind)) {
    case "prose":
      b.text = written(p, node);
      break;
    case "raw":
      b.text = node.textContent;
      break;
    case "items":
      b.items = [];
      node.forEach((item) => b.items.push(itemOf(p, item)));
      break;
    case "inside":
      b.columns = [blocksOf(p, node)];
      break;
    case "columns":
      b.columns = [];
      node.forEach((column) => b.columns.push(blocksOf(p, column)));
      break;
    default:
      if (items.length) b.items = items;
      if (set.text) {
        const { text: own, ...others } = set;
        Object.assign(b, { text: own, set: others });
      }
  }
  return b;
}

function written(p, node) {
  const out = serialize(node);
  return p.written.get(out) ?? out;
}

function itemOf(p, item) {
  const first = item.firstChild,
    head = first?.type.name === "item_title",
    body = head ? item.copy(item.content.cut(first.nodeSize)) : item;
  return { ...item.attrs.set, ...(head && first.textContent && { title: first.textContent }), text: written(p, body) };
}
