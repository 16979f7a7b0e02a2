// What can be done to whole blocks: find, select, add, move, copy and remove them. Positions are those before a block.
import { Plugin, NodeSelection, TextSelection, Selection } from "prosemirror-state";
import { Decoration, DecorationSet } from "prosemirror-view";
import { Fragment } from "prosemirror-model";
import { closeHistory } from "prosemirror-history";
import { key, say } from "../shared/say.js";
import { nests, partOf, typeOf } from "./schema.js";

export const isBlock = (node) => node.type.name.startsWith("b_");

// eachBlock visits blocks in reading order, also those in columns and in parts of a template.
export function eachBlock(doc, visit) {
  doc.descendants((node, pos) => {
    if (isBlock(node)) visit(node, pos);
    return !node.isTextblock && (!isBlock(node) || nests(node));
  });
}

export function findBlock(doc, id) {
  let at = -1;
  eachBlock(doc, (node, pos) => {
    if (at < 0 && node.attrs.id === id) at = pos;
  });
  return at;
}

// selectedBlock gives the innermost block in which the selection is, and where it begins; or null.
export function selectedBlock(state) {
  const { selection } = state;
  if (selection instanceof NodeSelection && isBlock(selection.node))
    return { node: selection.node, pos: selection.from };
  const { $from } = selection;
  for (let d = $from.depth; d > 0; d--)
    if (isBlock($from.node(d))) return { node: $from.node(d), pos: $from.before(d) };
  return null;
}

// selectBlock puts the caret into a block that has text, and selects any other as a whole.
export function selectBlock(state, pos, whole) {
  const node = state.doc.nodeAt(pos);
  if (!node) return null;
  const inside = !whole && !node.isAtom && Selection.findFrom(state.doc.resolve(pos + 1), 1, true);
  const inIt = inside && inside.from < pos + node.nodeSize;
  return state.tr.setSelection(inIt ? inside : NodeSelection.create(state.doc, pos)).scrollIntoView();
}

// holderOf is the slot, column or part of a template in which a position stands, with its depth.
export function holderOf($pos) {
  for (let d = $pos.depth; d > 0; d--) {
    const node = $pos.node(d);
    if (node.type.name === "column" || node.type.spec.holds || partOf(node)?.kind === "slot") return { node, depth: d };
  }
  return null;
}

// takesAt tells which kinds of block may stand beside the one at a position.
export function takesAt(doc, pos, inColumns) {
  const holder = holderOf(doc.resolve(pos));
  if (!holder) return [];
  return holder.node.type.name === "column" ? inColumns : takenBy(holder.node);
}

// takenBy tells which kinds of block a slot takes: one of the page, or one of a template that is edited.
export function takenBy(node) {
  const { holds } = node.type.spec;
  if (!holds) return partOf(node).takes;
  const names = node.attrs.set.takes?.split("\n");
  return holds.filter((k) => !names || names.includes(k.name)).map((k) => k.type);
}

// fullAt gives the slot at a position that takes no more blocks; null where it does, and in what stands inside a block.
export function fullAt(doc, pos) {
  const $pos = doc.resolve(pos),
    part = $pos.depth === 1 && partOf($pos.node(1));
  return part?.most && $pos.node(1).childCount >= part.most ? part : null;
}

export const fullWords = (part) =>
  `“${part.name}” takes at most ${part.most === 1 ? "one block" : part.most + " blocks"}.`;

export function insertBlock(state, pos, node) {
  const tr = state.tr.insert(pos, node);
  return tr.setSelection(selectBlock({ doc: tr.doc, tr }, pos, node.isAtom).selection).scrollIntoView();
}

// moveBlock moves one past its neighbours, then to the slot beside, as far as that takes it.
export function moveBlock(state, pos, by) {
  const $pos = state.doc.resolve(pos),
    node = state.doc.nodeAt(pos),
    index = $pos.index();
  const to = index + by;
  if (to >= 0 && to < $pos.parent.childCount) {
    const other = $pos.parent.child(to),
      at = by < 0 ? pos - other.nodeSize : pos + other.nodeSize;
    return moved(state, pos, node, by < 0 ? at : at + node.nodeSize);
  }
  const next = besideSlot(state.doc, pos, by, node);
  return next < 0 ? null : moved(state, pos, node, next);
}

function besideSlot(doc, pos, by, node) {
  const at = [];
  let own = -1;
  doc.forEach((part, offset) => {
    if (partOf(part).kind !== "slot") return;
    if (offset <= pos && pos < offset + part.nodeSize) own = at.length;
    at.push({ part, offset });
  });
  for (let i = own + by; own >= 0 && i >= 0 && i < at.length; i += by)
    if (partOf(at[i].part).takes.includes(typeOf(node)))
      return by > 0 ? at[i].offset + 1 : at[i].offset + at[i].part.nodeSize - 1;
  return -1;
}

// moved puts a block to another place, given as a position before it is taken out.
export function moved(state, pos, node, to) {
  const tr = state.tr.delete(pos, pos + node.nodeSize),
    at = tr.mapping.map(to, -1);
  if (!tr.doc.resolve(at).parent.canReplaceWith(tr.doc.resolve(at).index(), tr.doc.resolve(at).index(), node.type))
    return null;
  tr.insert(at, node);
  return tr.setSelection(NodeSelection.create(tr.doc, at)).scrollIntoView();
}

export function duplicate(state, pos) {
  const node = state.doc.nodeAt(pos);
  return insertBlock(state, pos + node.nodeSize, fresh(node));
}

// fresh is a copy with ids of its own, which says what it came from.
function fresh(node) {
  const copy = (n) => {
    const content = n.isTextblock || n.isLeaf ? n.content : Fragment.from(mapNodes(n, copy));
    return isBlock(n) ? n.type.create({ ...n.attrs, id: key(), from: n.attrs.id }, content, n.marks) : n.copy(content);
  };
  return copy(node);
}

const mapNodes = (node, f) => {
  const out = [];
  node.forEach((n) => out.push(f(n)));
  return out;
};

export function removeBlock(state, pos) {
  const tr = state.tr.delete(pos, pos + state.doc.nodeAt(pos).nodeSize);
  return tr.setSelection(Selection.near(tr.doc.resolve(Math.min(pos, tr.doc.content.size)), -1));
}

// setOf sets attributes of a node and leaves the selection where it is.
export function setOf(state, pos, attrs) {
  const { tr } = state;
  for (const [name, value] of Object.entries(attrs)) tr.setNodeAttribute(pos, name, value);
  return tr;
}

// ids gives every block an id of its own: of two with the same the second is a copy.
export const ids = () =>
  new Plugin({
    appendTransaction(transactions, _old, state) {
      if (!transactions.some((t) => t.docChanged)) return null;
      const met = new Set(),
        tr = state.tr;
      eachBlock(state.doc, (node, pos) => {
        const { id } = node.attrs;
        if (!id || met.has(id))
          tr.setNodeAttribute(pos, "from", id || node.attrs.from).setNodeAttribute(pos, "id", key());
        met.add(tr.doc.nodeAt(pos).attrs.id);
      });
      return tr.docChanged ? tr.setMeta("addToHistory", false) : null;
    },
  });

// guard keeps the parts of the template as they are, whatever is deleted or pasted.
export const guard = () =>
  new Plugin({
    filterTransaction(tr, state) {
      if (!tr.docChanged) return true;
      if (tr.doc.childCount !== state.doc.childCount) return false;
      for (let i = 0; i < tr.doc.childCount; i++) if (tr.doc.child(i).type !== state.doc.child(i).type) return false;
      return true;
    },
  });

// wholeText is the block of which all of the text is selected, and that has lines of text; or null.
function wholeText(state) {
  const { from, to, empty } = state.selection,
    at = !empty && selectedBlock(state);
  if (!at || at.node.isAtom || at.node.isTextblock || !at.node.firstChild.type.spec.group?.includes("prose"))
    return null;
  if (state.selection instanceof NodeSelection) return at;
  const text = textOf(state, at);
  return from <= text.from && to >= text.to && to <= at.pos + at.node.nodeSize ? at : null;
}

const textOf = (state, { node, pos }) =>
  TextSelection.between(state.doc.resolve(pos + 1), state.doc.resolve(pos + node.nodeSize - 1));

// emptied takes all of it away, tables and lists with it, and leaves a line to write in.
function emptied(state, { node, pos }) {
  const line = state.schema.nodes.paragraph.create(),
    tr = state.tr.replaceWith(pos + 1, pos + node.nodeSize - 1, line);
  return tr.setSelection(TextSelection.create(tr.doc, pos + 2));
}

const emptyWhole = (state, dispatch) => {
  const at = wholeText(state);
  if (at) dispatch?.(emptied(state, at));
  return !!at;
};

// emptyText does it where text is selected; a block that is selected as such is removed as a whole.
export const emptyText = (state, dispatch) => state.selection instanceof TextSelection && emptyWhole(state, dispatch);

// textBelow makes place for what is typed or pasted while something is selected that is no text, so that it is not lost:
// behind a picture in a text, below any other block. It gives whether the caret stands there now; undefined: it is text
// that is selected.
export function textBelow(x) {
  const { state } = x.view,
    { selection, doc } = state;
  if (!(selection instanceof NodeSelection) || wholeText(state)) return undefined;
  if (selection.node.isInline) {
    x.view.dispatch(state.tr.setSelection(TextSelection.create(doc, selection.to)));
    return true;
  }
  if (!isBlock(selection.node)) return undefined;
  const full = fullAt(doc, selection.from),
    takes = takesAt(doc, selection.from, x.inColumns).includes("text");
  if (takes && !full) x.view.dispatch(insertBlock(state, selection.to, x.pages.node({ type: "text", id: key() })));
  else say(full ? fullWords(full) : "No text may stand here.", true);
  return takes && !full;
}

// removeSelected takes away a block that is selected, as one step to undo.
export function removeSelected(state, dispatch) {
  const { selection } = state;
  if (!(selection instanceof NodeSelection) || !isBlock(selection.node)) return false;
  dispatch?.(closeHistory(removeBlock(state, selection.from)).scrollIntoView());
  return true;
}

// whole makes what is typed or pasted over a whole text take its place, and spares what is selected and no text.
export const whole = (x) =>
  new Plugin({
    props: {
      handleTextInput(view, _from, _to, text) {
        const below = textBelow(x);
        if (below === undefined && !emptyWhole(view.state, view.dispatch)) return false;
        if (below !== false) view.dispatch(view.state.tr.insertText(text));
        return true;
      },
      handlePaste(view) {
        emptyWhole(view.state, view.dispatch);
        return textBelow(x) === false;
      },
      handleDOMEvents: {
        compositionstart: () => textBelow(x) === false,
        // What comes from no key (dictation, a picker of signs) would be put into the page by the browser itself.
        beforeinput(view, event) {
          const below = /^insert(Text|FromDictation|ReplacementText)$/.test(event.inputType) ? textBelow(x) : undefined;
          if (below === undefined) return false;
          event.preventDefault();
          if (below && event.data) view.dispatch(view.state.tr.insertText(event.data));
          return true;
        },
      },
    },
  });

// intoSlot goes on from a line of the template to the slot below it: to its first block, or to a new text.
export function intoSlot(x) {
  const { state } = x.view,
    { $from } = state.selection;
  if ($from.depth !== 1 || partOf($from.node(1))?.kind !== "lead") return false;
  let pos = -1,
    part = null;
  state.doc.forEach((node, offset) => {
    const slot = pos < 0 && offset > $from.before(1) && partOf(node).kind === "slot";
    if (slot && (node.childCount || partOf(node).takes.includes("text"))) [pos, part] = [offset, node];
  });
  if (pos < 0) return true;
  if (part.childCount) x.view.dispatch(selectBlock(state, pos + 1, false));
  else x.view.dispatch(insertBlock(state, pos + 1, x.pages.node({ type: "text", id: key() })));
  return true;
}

// picked marks the block in which the selection is.
export const picked = () =>
  new Plugin({
    props: {
      decorations(state) {
        const at = selectedBlock(state);
        return (
          at &&
          DecorationSet.create(state.doc, [Decoration.node(at.pos, at.pos + at.node.nodeSize, { class: "is-picked" })])
        );
      },
    },
  });

// selectMore selects all of the text in which the caret is, then the block, then all blocks of its slot.
export function selectMore(state, dispatch) {
  const { $from, $to, from, to } = state.selection;
  const block = selectedBlock(state);
  if (!block) {
    if ($from.depth > 0)
      dispatch?.(state.tr.setSelection(TextSelection.create(state.doc, $from.start(1), $from.end(1))));
    return true;
  }
  const text = !block.node.isAtom && textOf(state, block);
  if (text && (from > text.from || to < text.to)) {
    let tables = false; // a text with a table is selected as a whole, or tables would keep the selection to a cell
    block.node.forEach((n) => (tables ||= n.type.name === "table"));
    dispatch?.(state.tr.setSelection(tables ? NodeSelection.create(state.doc, block.pos) : text));
    return true;
  }
  const holder = holderOf($from);
  if (!holder || holder.depth > $to.depth) return true;
  const all = TextSelection.between(
    state.doc.resolve($from.start(holder.depth)),
    state.doc.resolve($from.end(holder.depth)),
  );
  dispatch?.(state.tr.setSelection(all));
  return true;
}
