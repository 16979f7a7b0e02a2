// How the parts of a page are drawn while it is edited: as readers get them, with an edge that tells what a block is and
// whether it differs from Live, and a place to add below it.
import { el, symbol } from "../shared/say.js";
import { holds, isPart } from "./schema.js";
import { takenBy } from "./blocks.js";
import { drawPart } from "./template.js";
import { marksBox } from "./marks.js";

export function viewsOf(x) {
  const views = {};
  for (const kind of x.data.kinds) {
    views["b_" + kind.type] = (node, view, getPos, decorations) => blockView(x, kind, node, getPos, decorations);
    if (holds(kind) === "items") views["item_" + kind.type] = (node) => itemView(x, kind, node);
  }
  views.column = (node, view, getPos) => columnView(x, node, getPos);
  x.data.parts.forEach((part, i) => {
    views["part_" + i] = (node, view, getPos) => partView(x, part, node, getPos);
  });
  return views;
}

const still = { contenteditable: "false" };
const outside = (content) => (m) => !content || !content.contains(m.target) || m.target === content.parentNode;

// --- parts of the template ---

function partView(x, part, node, getPos) {
  if (part.kind === "lead") return leadView(part, node);
  if (part.kind === "facts") return factsView(x, part, node);
  if (part.kind === "fixed") return fixedView(x, part);
  return slotView(x, part, node, getPos);
}

function leadView(part, node) {
  const field = part.fields[0];
  const dom = el("p", {
    class: "lead",
    "data-field": field.key,
    "data-placeholder": field.help || field.label,
    role: "group",
    "aria-label": field.label,
  });
  const dress = (n) => dom.classList.toggle("is-blank", !n.content.size);
  dress(node);
  return { dom, contentDOM: dom, update: (n) => n.type === node.type && (dress(n), true) };
}

function factsView(x, part, node) {
  const dom = el("dl", { class: "facts", ...still });
  const draw = (n) =>
    dom.replaceChildren(
      ...part.fields.map((f) => {
        const told = x.told(f, n.attrs.values[f.key] || "");
        const open = el(
          "button",
          { type: "button", class: "fact", title: "Change " + f.label },
          told || (f.required ? "required" : "—"),
        );
        open.addEventListener("click", () => x.parts.openFact(f.key));
        return el("div", { class: told ? "" : "is-blank" }, el("dt", {}, f.label), el("dd", {}, open));
      }),
    );
  draw(node);
  return {
    dom,
    update: (n) => n.type === node.type && (draw(n), true),
    stopEvent: () => true,
    ignoreMutation: () => true,
  };
}

function fixedView(x, part) {
  const dom = el("div", { class: "fixed-part", ...still });
  dom.innerHTML = part.html; // made and cleaned by the server
  dom.prepend(el("p", { class: "fixed-tag" }, "Fixed by the ", el("b", {}, x.data.template), " template"));
  return { dom, stopEvent: () => true, ignoreMutation: () => true };
}

function slotView(x, part, node, getPos) {
  const content = el("div", { class: "slot-body" });
  const foot = el("div", { class: "slot-foot", ...still });
  const dom = el("section", { class: "slot", "data-slot": part.key, "aria-label": "Slot " + part.name });
  if (part.label) dom.append(el("h2", { class: "slot-label", ...still }, part.label));
  dom.append(content, foot);
  const gone = el("div", { class: "gone-here" });
  let now = node,
    was = null; // whether it was empty when its foot was drawn
  const draw = () => {
    const empty = !now.childCount;
    if (empty === was) return;
    was = empty;
    dom.classList.toggle("is-empty", empty);
    const words = empty ? `Begin “${part.name}”…` : x.data.ofTemplate ? "Add a part…" : "Add a block…";
    foot.replaceChildren(
      gone,
      addButton(x, words, () => [getPos() + now.nodeSize - 1, part.takes]),
    );
    if (empty && part.help) foot.append(el("p", { class: "small quiet" }, part.help));
    if (empty && part.required) foot.append(el("p", { class: "small req" }, "required"));
  };
  draw();
  drawGone(x, gone, part.key);
  x.slots.set(part.key, () => drawGone(x, gone, part.key));
  return {
    dom,
    contentDOM: content,
    update(n) {
      if (n.type !== now.type) return false;
      now = n;
      draw();
      return true;
    },
    stopEvent: (e) => foot.contains(e.target),
    ignoreMutation: outside(content),
    destroy: () => x.slots.delete(part.key),
  };
}

function drawGone(x, box, slot) {
  const gone = x.marks.gone(slot);
  box.replaceChildren(...(gone.length ? marksBox(x, "s " + slot, gone) : []));
}

export function addButton(x, words, where) {
  const b = el("button", { type: "button", class: "add-here", "aria-haspopup": "dialog" }, words, el("span", {}));
  b.addEventListener("click", () => x.add(b, ...where()));
  b.addEventListener("mousedown", (e) => e.preventDefault());
  return b;
}

// --- blocks ---

function blockView(x, kind, node, getPos, decorations) {
  const what = holds(kind),
    edge = el("div", { class: "b-edge", ...still }),
    foot = el("div", { class: "b-foot", ...still }),
    body = el("div", { class: "b-body" }),
    dom = el("div", { class: "b b-" + kind.type }, edge, body, foot);
  const content = what ? contentOf(kind) : null;
  if (what === "inside") foot.before(insideFoot(x, () => v));
  const v = { x, kind, node, getPos, dom, edge, body, foot, content, change: null };
  drawFrame(v);
  drawBody(v);
  take(v, decorations);
  return {
    dom,
    contentDOM: content,
    update(n, decos) {
      if (n.type !== v.node.type) return false;
      const was = v.node;
      v.node = n;
      if (was.attrs !== n.attrs) drawBody(v);
      take(v, decos);
      return true;
    },
    selectNode: () => dom.classList.add("is-node"),
    deselectNode: () => dom.classList.remove("is-node"),
    stopEvent: (e) =>
      (edge.contains(e.target) && e.type !== "dragstart") ||
      foot.contains(e.target) ||
      !!e.target.closest?.(".inside-foot"),
    ignoreMutation: (m) => m.type === "attributes" || outside(content)(m),
    destroy: () => x.drawn.forget(v),
  };
}

// What stands below the blocks of a part of a template: a place to add one.
function insideFoot(x, v) {
  const foot = el("div", { class: "slot-foot inside-foot", ...still });
  foot.append(
    addButton(x, "Add a block to this part…", () => [v().getPos() + v().node.nodeSize - 1, takenBy(v().node)]),
  );
  return foot;
}

const contentOf = (kind) =>
  ({ steps: () => el("ol", { class: "steps" }), source: () => el("code", {}) })[kind.type]?.() ??
  el("div", { class: "b-text" });

// The edge: what the block is, with a press to select it, and to drag it by.
function drawFrame(v) {
  const handle = el(
    "button",
    { type: "button", class: "b-name", draggable: "true", tabindex: "-1", title: "Select, or drag it" },
    v.kind.name,
  );
  handle.addEventListener("click", () => v.x.select(v.getPos(), true));
  v.edge.append(handle);
  const takes = () => v.x.takesAt(v.getPos());
  v.foot.append(addButton(v.x, "Add between", () => [v.getPos() + v.node.nodeSize, takes()]));
  v.foot.firstChild.tabIndex = -1;
}

// take reads what the decorations tell of the block: how it differs from Live.
function take(v, decorations) {
  const change = decorations.find((d) => d.spec.change)?.spec.change || null;
  v.dom.dataset.block = v.node.attrs.id;
  if (change === v.change) return;
  v.change = change;
  v.edge.querySelector(".b-since")?.remove();
  v.foot.querySelector(".since-words")?.remove();
  if (!change) return;
  const [button, words] = marksBox(v.x, "b " + v.node.attrs.id, [change]);
  v.edge.append(button);
  v.foot.prepend(words);
}

function drawBody(v) {
  const { kind, node, body, content } = v,
    set = node.attrs.set;
  v.dom.classList.toggle("is-hidden-somewhere", !!set.hide);
  if (isPart(kind)) return drawPart(v);
  if (!content) {
    v.dom.classList.add("is-drawn");
    return v.x.drawn.draw(v);
  }
  if (kind.type === "note") {
    const tone = set.tone || "plain";
    body.className = "b-body note note-" + tone;
    body.replaceChildren(
      el("p", { class: "note-tone", ...still }, symbol("tone-" + tone), v.x.tones[tone] || tone),
      content,
    );
  } else if (kind.type === "quotation") {
    const quote = content.parentNode || el("blockquote", {});
    quote.append(content);
    body.className = "b-body quotation";
    body.replaceChildren(quote, ...(set.who ? [el("p", { class: "quoted", ...still }, set.who)] : []));
  } else if (kind.type === "columns") {
    content.className = "columns columns-" + node.childCount;
    body.replaceChildren(content);
  } else if (kind.type === "source") {
    body.replaceChildren(el("pre", { class: "verbatim" }, content));
  } else if (!content.parentNode) body.append(content);
}

function itemView(x, kind, node) {
  const dom = el(kind.type === "steps" ? "li" : "div", { class: kind.type === "steps" ? "step" : "question" });
  const content = el("div", {}),
    aside = el("div", { class: "step-picture", ...still });
  dom.append(aside, content);
  const draw = (n) => {
    aside.hidden = !n.attrs.set.picture;
    aside.replaceChildren(...(n.attrs.set.picture ? [el("img", { src: n.attrs.set.picture, alt: "" })] : []));
  };
  draw(node);
  return {
    dom,
    contentDOM: content,
    update: (n) => n.type === node.type && (draw(n), true),
    ignoreMutation: outside(content),
  };
}

function columnView(x, node, getPos) {
  const content = el("div", { class: "column-body" }),
    foot = el("div", { class: "slot-foot", ...still }),
    dom = el("div", { class: "column" }, content, foot);
  let now = node;
  foot.append(addButton(x, "Add…", () => [getPos() + now.nodeSize - 1, x.inColumns]));
  return {
    dom,
    contentDOM: content,
    update: (n) => n.type === now.type && ((now = n), true),
    stopEvent: (e) => foot.contains(e.target),
    ignoreMutation: outside(content),
  };
}

// --- what the server draws ---

// makeDrawn draws blocks that only the server can draw, some at a time, and keeps what it drew last.
export function makeDrawn(x, post) {
  const waiting = new Map(), // what each view shows
    known = new Map(); // HTML by what is shown
  let timer;
  const keyOf = (v) =>
    JSON.stringify(x.pages.block(v.node), (k, val) => (k === "id" || k === "from" ? undefined : val));
  const show = (v, html) => {
    v.body.innerHTML =
      html || `<p class="empty-block"><b>${v.kind.name}</b>: ${html === "" ? "nothing to show yet" : "…"}</p>`;
    v.dom.classList.toggle("is-floated", !!v.body.querySelector(".picture-beside"));
    for (const a of v.body.querySelectorAll("a[href]")) a.tabIndex = -1;
    for (const d of v.body.querySelectorAll("[hidden]")) d.hidden = false;
    // The browser's selection may have ended in what was drawn before, and is gone with it.
    if (v.dom.classList.contains("is-node") && x.view.hasFocus()) x.view.focus();
  };
  async function ask() {
    const asked = [...waiting]; // of each view what it shows
    waiting.clear();
    try {
      const { html } = await post(x.data.draw, { blocks: asked.map(([v]) => x.pages.block(v.node)) });
      asked.forEach(([v, key], i) => {
        known.set(key, html[i]);
        if (!waiting.has(v)) show(v, html[i]);
      });
    } catch {
      for (const [v] of asked) show(v, undefined);
    }
  }
  return {
    draw(v) {
      const key = keyOf(v);
      if (known.has(key)) return show(v, known.get(key));
      if (!v.body.firstChild) show(v, undefined);
      waiting.set(v, key);
      clearTimeout(timer);
      timer = setTimeout(ask, 120);
    },
    forget: (v) => waiting.delete(v),
    again() {
      known.clear();
    },
  };
}
