// The page editor: one document for the whole page, drawn as readers get it, saved by itself. What its parts share is one
// object, x; every part gets it and adds what it offers.
import { EditorState, Selection } from "prosemirror-state";
import { EditorView } from "prosemirror-view";
import { history } from "prosemirror-history";
import { keymap } from "prosemirror-keymap";
import { baseKeymap } from "prosemirror-commands";
import { dropCursor } from "prosemirror-dropcursor";
import { gapCursor } from "prosemirror-gapcursor";
import { key, post, say } from "../shared/say.js";
import { isPart, makeSchema, partOf } from "./schema.js";
import { makePages } from "./document.js";
import { parse, rewrite } from "./markdown.js";
import { viewsOf, makeDrawn } from "./views.js";
import {
  fullAt,
  fullWords,
  guard,
  ids,
  insertBlock,
  picked,
  selectBlock,
  selectedBlock,
  takesAt,
  whole,
} from "./blocks.js";
import { marksOf } from "./marks.js";
import { keysOf, makeTools, tableEditing, tick, typing } from "./tools.js";
import { makeParts } from "./parts.js";
import { carried, makeFiles } from "./files.js";
import { askKind } from "./add.js";
import { makeSaving } from "./saving.js";
import { makeLock } from "./lock.js";
import { makeTemplateLock } from "./template.js";
import { drawKept, met, restore } from "./clash.js";
import { apart, cleanHTML, pasteBlocks, pasteFiles, putFile, tableOf, toPages } from "./paste.js";
import { copyBlock, askWhereTo } from "./copy.js";
import { linkSelection } from "./link.js";
import { makeStates } from "./states.js";
import { makePast } from "./past.js";
import { makePlain } from "./plain.js";
import { makeWidths } from "./widths.js";
import { makeNews } from "./news.js";

const data = JSON.parse(document.getElementById("page-data").textContent);
const root = document.getElementById("editor");

const x = {
  data,
  clash: false,
  slots: new Map(), // what draws the foot of each slot anew
  problems: data.problems || [],
  kinds: Object.fromEntries(data.kinds.map((k) => [k.type, k])),
  inColumns: data.kinds.filter((k) => !k.columns && !isPart(k)).map((k) => k.type),
  tones: { plain: "Note", tip: "Tip", warning: "Take care", danger: "Danger" },
  schema: makeSchema(data.kinds, data.parts, data.slots || {}),
  page: () => x.pages.fromDoc(x.view.state.doc),
  editable: () => x.lock.mine() && !x.clash,
  takesAt: (pos) => takesAt(x.view.state.doc, pos, x.inColumns),
  refresh,
  show,
  anew,
  select,
  add,
  addBelow,
  endOf,
  told,
  take,
  met: (body) => met(x, body),
  copy: (pos, cut) => copyBlock(x, pos, cut),
  copyTo: (anchor, pos) => askWhereTo(x, anchor, pos),
};
// told words a fact as readers get it.
function told(field, value) {
  if (!value) return "";
  if (field.type === "person") return data.people.find((p) => p.id === value)?.name || "";
  if (field.type === "date" && !isNaN(Date.parse(value)))
    return new Date(value + "T12:00Z").toLocaleDateString("en-GB", {
      day: "numeric",
      month: "long",
      year: "numeric",
      timeZone: "UTC",
    });
  if (field.type === "yes") return "Yes";
  if (field.type === "number" && field.unit) return `${value} ${field.unit}`;
  if (value.startsWith("page:")) return data.titles[value.slice(5)] || "a page that is gone";
  return value.replaceAll("\n", ", ");
}

// take takes up what the server says after a save.
function take(answer) {
  x.problems = answer.problems || [];
  x.parts.sync();
}

// --- the page ---

const plugins = () => [
  guard(),
  ids(),
  x.marks.plugin,
  picked(),
  whole(x),
  typing(x.schema),
  keysOf(x),
  keymap(baseKeymap),
  history({ depth: 500 }),
  dropCursor({ color: "#44557a", width: 2 }),
  gapCursor(),
  tableEditing(),
];

const stateOf = (page) => EditorState.create({ doc: x.pages.toDoc(page), plugins: plugins() });

function show(page) {
  const { tr } = x.view.state,
    doc = x.pages.toDoc(page);
  // Parts of the template stay; what they hold is replaced as a whole, in one step that can be undone.
  x.view.state.doc.forEach((node, offset, i) => {
    const now = doc.child(i);
    if (node.eq(now)) return;
    const at = tr.mapping.map(offset);
    if (node.isLeaf) tr.setNodeAttribute(at, "values", now.attrs.values);
    else tr.replaceWith(at + 1, at + 1 + node.content.size, now.content);
  });
  if (doc.attrs.news !== x.view.state.doc.attrs.news) tr.setDocAttribute("news", doc.attrs.news);
  if (tr.docChanged) x.view.dispatch(tr.setMeta("shown", true));
  x.marks.look();
  refresh();
}

// anew shows another text of the page, from which undo begins anew, and saves it.
function anew(page) {
  const state = stateOf(page),
    at = Math.min(x.view.state.selection.head, state.doc.content.size);
  x.view.updateState(state.apply(state.tr.setSelection(Selection.near(state.doc.resolve(at)))));
  x.saving.changed();
  x.marks.look();
  x.count();
  refresh();
}

function dispatch(tr) {
  const before = x.view.state;
  x.view.updateState(before.apply(tr));
  const { state } = x.view;
  if (state.doc !== before.doc && !tr.getMeta("shown")) {
    x.saving.changed();
    x.past.written();
  }
  if (tr.getMeta("paste")) toPages(x.view, data.find);
  x.drawTools();
  x.news?.draw();
  const moved = state.doc !== before.doc || !state.selection.eq(before.selection);
  if (!moved) return x.parts.sync();
  x.count();
  x.parts.sync(selectedBlock(state)?.node.attrs.id || leadAt(state));
}

const leadAt = (state) => {
  const { $from } = state.selection;
  return $from.depth > 0 && partOf($from.node(1))?.kind === "lead" ? "lead " + $from.index(0) : null;
};

function select(pos, whole) {
  if (pos < 0) return;
  const tr = selectBlock(x.view.state, pos, whole);
  if (!tr) return;
  x.view.focus(); // first, because what has no focus is not scrolled to
  x.view.dispatch(tr);
}

// endOf is the position behind the last block of a slot.
function endOf(slot) {
  let at = -1;
  x.view.state.doc.forEach((node, offset) => {
    if (partOf(node).kind === "slot" && partOf(node).key === slot) at = offset + node.nodeSize - 1;
  });
  return at;
}

function add(anchor, pos, types) {
  if (!x.editable()) return;
  const full = fullAt(x.view.state.doc, pos);
  if (full) return say(fullWords(full), true);
  askKind(
    x,
    anchor,
    data.kinds.filter((k) => types.includes(k.type)),
    (kind) => {
      const node = x.pages.node({ type: kind.type, id: key() });
      x.view.dispatch(insertBlock(x.view.state, pos, node));
      if (node.isAtom) x.parts.focus(node.attrs.id);
      else x.view.focus();
    },
  );
}

function addBelow() {
  const at = selectedBlock(x.view.state);
  if (!at) return false;
  const dom = x.view.nodeDOM(at.pos);
  add(dom, at.pos + at.node.nodeSize, x.takesAt(at.pos));
  return true;
}

function refresh() {
  x.lock.draw();
  x.view.setProps({ editable: x.editable });
  root.classList.toggle("is-reading", !x.editable());
  x.drawTools();
  x.parts.sync();
  x.news?.draw();
  for (const b of document.querySelectorAll("#undo, #redo")) b.disabled = !x.editable();
}

// --- what is pasted and dropped ---

const handlers = {
  handleScrollToSelection: scrollToUnseen,
  transformPastedHTML(html) {
    const clean = cleanHTML(html, [location.host, ...data.hosts]);
    if (clean.dropped) say(clean.dropped, true);
    if (clean.files.length) setTimeout(() => pasteFiles(x, clean.files));
    return clean.html;
  },
  clipboardTextParser: (text, $at, asText) => (asText || $at.parent.type.spec.code ? null : tableOf(text, x.schema)),
  transformPasted: (slice) => apart(slice, x.schema),
  handlePaste(view, event, slice) {
    const files = [...(event.clipboardData?.files || [])];
    if (files.length && !event.clipboardData.types.includes("text/html")) {
      pasteFiles(x, files);
      return true;
    }
    if (linkSelection(x, slice.content.textBetween(0, slice.content.size, "\n"))) {
      toPages(view, data.find);
      return true;
    }
    return pasteBlocks(x, slice);
  },
  handleClick(view, pos, event) {
    if (event.target.closest("a[href]")) event.preventDefault(); // links do not leave the editor
    return tick(view, event);
  },
};

// scrollToUnseen scrolls to a selection out of sight in a long page, where the browser has not worked out how high what
// stands before it is.
function scrollToUnseen(view) {
  const at = root.classList.contains("is-long") && domOfSelection(view)?.getBoundingClientRect();
  const stage = at && document.querySelector(".stage").getBoundingClientRect();
  if (!at || (at.bottom > stage.top && at.top < stage.bottom)) return false;
  settle(view, 4);
  return true;
}

// settle keeps the selection at the middle for some frames, while what came into sight takes its true height.
function settle(view, frames) {
  domOfSelection(view)?.scrollIntoView({ block: "center" });
  if (frames) requestAnimationFrame(() => settle(view, frames - 1));
}

function domOfSelection(view) {
  const { from, head, node } = view.state.selection,
    dom = node ? view.nodeDOM(from) : view.domAtPos(head).node;
  return dom?.nodeType === Node.TEXT_NODE ? dom.parentNode : dom;
}

// takeDrop takes a file from the computer or from the picker before anything else does: one that is dropped beside the page
// does not open in its place.
function takeDrop(event) {
  const files = [...(event.dataTransfer?.files || [])],
    kept = event.dataTransfer?.getData(carried);
  if (!kept && !files.length) return;
  event.preventDefault();
  event.stopPropagation();
  if (!x.editable()) return;
  const pos = dropPlace(x.view, event);
  if (pos === null) say("Drop it on the page, where it is to stand.", true);
  else if (kept) putFile(x, JSON.parse(kept), pos);
  else pasteFiles(x, files, pos);
}

// dropPlace is the position under a drop: in the text there, or at the end of the slot there; null beside the page.
function dropPlace(view, event) {
  if (!view.dom.contains(event.target)) return null;
  const slot = event.target.closest?.(".slot-foot")?.parentNode.querySelector(".slot-body");
  if (slot) return view.posAtDOM(slot, slot.childNodes.length);
  return view.posAtCoords({ left: event.clientX, top: event.clientY })?.pos ?? null;
}

addEventListener("dragover", (event) => {
  if (event.dataTransfer?.types.includes("Files")) event.preventDefault();
});
addEventListener("drop", takeDrop, true);

// --- words ---

function counter() {
  const line = document.getElementById("words");
  let timer;
  return () => {
    clearTimeout(timer);
    timer = setTimeout(() => {
      const { doc } = x.view.state,
        words = doc.textBetween(0, doc.content.size, " ", " ").split(/\s+/).filter(Boolean).length,
        minutes = Math.max(1, Math.round(words / 220));
      line.textContent = `${words === 1 ? "1 word" : words + " words"} · ${minutes === 1 ? "1 minute" : minutes + " minutes"} to read`;
    }, 200);
  };
}

// --- begin ---

x.pages = makePages(x.schema, data.kinds, data.parts);
x.marks = marksOf(x);
x.drawn = makeDrawn(x, post);
x.files = makeFiles(x);
x.saving = makeSaving(x);
x.past = makePast(x);
x.lock = data.ofTemplate ? makeTemplateLock(x) : makeLock(x);
x.count = counter();
x.drawTools = () => {};
x.parts = { sync() {} };
x.view = new EditorView(document.getElementById("sheet"), {
  state: stateOf(data),
  nodeViews: viewsOf(x),
  editable: x.editable,
  attributes: { "aria-label": "Text of the page", role: "textbox", "aria-multiline": "true", class: "article" },
  dispatchTransaction: dispatch,
  ...handlers,
});
root.classList.toggle("is-long", x.view.dom.querySelectorAll(".slot-body > .b").length > 60);
x.drawTools = makeTools(x, document.getElementById("styles"));
x.parts = makeParts(x, document.getElementById("parts"));
makeWidths();
x.news = makeNews(x);
x.news.draw();
if (!data.ofTemplate) {
  makeStates(x);
  makePlain(x);
}
for (const way of ["undo", "redo"])
  document.getElementById(way).addEventListener("click", () => {
    x.past[way]();
    x.view.focus();
  });
root.editor = { x, parse, rewrite };
x.count();
refresh();
x.marks.look();
drawKept(x);
restore(x);
x.lock.goOn();
