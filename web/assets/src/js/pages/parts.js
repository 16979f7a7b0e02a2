// Parts of this page: everything on it in reading order. The part that is selected unfolds with its settings and what is to
// mend, and can be moved, copied, hidden and removed there as well as on the page.
import { el, get, key, say } from "../shared/say.js";
import { holds, nests, partOf, typeOf } from "./schema.js";
import {
  takenBy,
  duplicate,
  findBlock,
  isBlock,
  moveBlock,
  removeBlock,
  selectBlock,
  selectedBlock,
  setOf,
} from "./blocks.js";
import { makeForm } from "./settings.js";
import { makeItems } from "./items.js";

export function makeParts(x, place) {
  const p = {
    x,
    place,
    open: "page",
    rows: new Map(),
    form: null,
    facts: document.getElementById("page-facts"),
    list: el("ol", { class: "part-list" }),
  };
  place.append(p.list);
  p.list.addEventListener("keydown", (e) => onKey(p, e));
  let waiting = false;
  return {
    // sync brings the list up to date with the document, once a frame.
    sync(selected) {
      if (selected) p.open = selected;
      if (waiting) return;
      waiting = true;
      requestAnimationFrame(() => {
        waiting = false;
        draw(p);
      });
    },
    openFact(key) {
      p.open = "facts";
      draw(p);
      p.place.querySelector(`[data-setting="${CSS.escape(key)}"] :is(input, select, textarea)`)?.focus();
    },
    focus(id) {
      p.open = id;
      draw(p);
      p.rows.get(id)?.querySelector(".part-row").focus();
    },
  };
}

// --- rows ---

// rowsOf lists what the page has: [key, kind, title, extra] and what it is about.
function rowsOf(p) {
  const { x } = p,
    { doc } = x.view.state,
    out = [
      {
        key: "page",
        kind: x.data.ofTemplate ? "Template" : "Page",
        title: x.data.about,
        extra: x.data.live ? "" : "not live yet",
      },
    ];
  const facts = x.data.parts.filter((t) => t.kind === "facts").flatMap((t) => t.fields);
  doc.forEach((node, offset, i) => {
    const part = partOf(node);
    if (part.kind === "lead")
      out.push({
        key: "lead " + i,
        kind: part.fields[0].label,
        title: node.textContent || "nothing yet",
        pos: offset,
        bad: problems(x, (c) => c.part === part.fields[0].key),
      });
    if (part.kind === "facts" && !out.some((r) => r.key === "facts"))
      out.push({
        key: "facts",
        kind: "Facts",
        title: facts.map((f) => f.label).join(", "),
        bad: problems(x, (c) => facts.some((f) => f.key === c.part)),
      });
    if (part.kind === "fixed") out.push({ key: "fixed " + i, kind: "Fixed", title: part.words, fixed: true });
    if (part.kind !== "slot") return;
    out.push({
      key: "slot " + part.key,
      slot: part,
      title: part.name,
      extra: part.takesAll ? "" : part.takes.map((t) => x.kinds[t].name.toLowerCase()).join(", "),
      bad: problems(x, (c) => c.part === part.key && !c.block),
    });
    blockRows(p, node, offset + 1, 0, out);
  });
  return out;
}

function blockRows(p, holder, start, level, out) {
  const { x } = p;
  holder.forEach((node, offset) => {
    if (!isBlock(node)) return blockRows(p, node, start + offset + 1, level + 1, out);
    const id = node.attrs.id,
      pos = start + offset;
    out.push({
      key: id,
      block: node,
      pos,
      level,
      kind: x.kinds[typeOf(node)].name,
      title: titleOf(x, node),
      extra: x.marks.told.some((c) => c.id === id && c.what !== "went") ? "changed" : "",
      hide: node.attrs.set.hide,
      bad: problems(x, (c) => c.block === id),
    });
    if (nests(node)) blockRows(p, node, pos + 1, node.type.spec.holds ? level + 1 : level, out);
  });
}

const problems = (x, of) => x.problems.filter(of);

// titleOf tells a block by its first words, or by what it was told to show.
export function titleOf(x, node) {
  if (node.firstChild?.type.name === "heading" && node.firstChild.content.size) return node.firstChild.textContent;
  if (node.attrs.set.name) return node.attrs.set.name;
  const words = node.textBetween(0, Math.min(node.content.size, 200), " ").trim();
  if (words) return words.slice(0, 60);
  const { set, items } = node.attrs,
    name = (v) => (v?.startsWith("page:") ? x.data.titles[v.slice(5)] || "" : (v || "").split("/").at(-1));
  const told = items.length
    ? items.map((it) => it.title || it.label || name(it.to || it.file || it.picture))
    : Object.entries(set)
        .filter(([k]) => k !== "hide" && k !== "text")
        .map(([, v]) => name(v));
  return (
    told.filter(Boolean).join(", ").slice(0, 60) ||
    (x.kinds[typeOf(node)].fields.length > 1 || x.kinds[typeOf(node)].item ? "empty" : "")
  );
}

function draw(p) {
  const rows = rowsOf(p);
  if (!rows.some((r) => r.key === p.open)) p.open = "page";
  const made = rows.map((r) => rowFor(p, r));
  const keep = new Set(made);
  for (const [key, li] of p.rows) if (!keep.has(li)) p.rows.delete(key);
  if (made.some((li, i) => p.list.children[i] !== li) || p.list.childElementCount !== made.length) {
    const focused = p.list.contains(document.activeElement) && document.activeElement;
    p.list.replaceChildren(...made);
    focused?.focus?.({ preventScroll: true });
  }
  const row = rows.find((r) => r.key === p.open);
  unfold(p, row, p.rows.get(p.open));
}

function rowFor(p, r) {
  let li = p.rows.get(r.key);
  if (!li) {
    const b = el(
      "button",
      { type: "button", class: "part-row", "aria-expanded": "false" },
      el("span", { class: "p-kind" }),
      el("span", { class: "p-title" }),
      el("span", { class: "p-extra" }),
    );
    li = el("li", { "data-part": r.key }, b);
    b.addEventListener("click", () => choose(p, li.row));
    p.rows.set(r.key, li);
  }
  li.row = r;
  const said = [
    r.kind || "",
    r.title,
    r.bad?.length ? `${r.bad.length} to mend` : r.hide ? "hidden on " + r.hide.replaceAll("\n", ", ") : r.extra || "",
    r.level || 0,
  ].join("\n");
  if (li.said !== said) {
    li.said = said;
    const [kind, title, extra] = li.firstChild.children;
    kind.textContent = r.kind || "";
    title.textContent = r.title;
    extra.textContent = r.bad?.length ? `${r.bad.length} to mend` : r.hide ? "hidden on some screens" : r.extra || "";
    extra.className = "p-extra" + (r.bad?.length ? " is-bad" : r.extra === "changed" ? " is-changed" : "");
    li.className = [r.slot && "is-slot", r.fixed && "is-fixed", r.level && "is-inner"].filter(Boolean).join(" ");
  }
  const open = r.key === p.open;
  li.firstChild.setAttribute("aria-expanded", String(open));
  li.classList.toggle("is-open", open);
  return li;
}

// choose selects on the page what was chosen here, and unfolds it; the focus stays here.
function choose(p, r) {
  const { view } = p.x;
  p.open = r.key;
  if (r.block) view.dispatch(selectBlock(view.state, findBlock(view.state.doc, r.key), true));
  else if (r.pos !== undefined) view.dispatch(selectBlock(view.state, r.pos, false));
  draw(p);
  const dom = r.block && view.nodeDOM(findBlock(view.state.doc, r.key));
  (dom || (r.slot && view.dom.querySelector(`[data-slot="${CSS.escape(r.slot.key)}"]`)))?.scrollIntoView({
    block: "nearest",
  });
}

// The arrows go from row to row; Enter in a row that is open goes to the page.
function onKey(p, e) {
  if (!e.target.matches(".part-row")) return;
  const all = [...p.list.querySelectorAll(".part-row")],
    at = all.indexOf(e.target),
    row = e.target.parentNode.row;
  const to = { ArrowDown: at + 1, ArrowUp: at - 1, Home: 0, End: all.length - 1 }[e.key];
  if (e.altKey && row.block && (e.key === "ArrowUp" || e.key === "ArrowDown")) {
    e.preventDefault();
    return act(p, row.key, (state, pos) => moveBlock(state, pos, e.key === "ArrowUp" ? -1 : 1), "moved");
  }
  if (to !== undefined && all[to]) {
    e.preventDefault();
    all[to].focus();
  } else if (e.key === "Enter" && row.key === p.open && row.block) {
    e.preventDefault();
    const { view } = p.x;
    view.dispatch(selectBlock(view.state, findBlock(view.state.doc, row.key), false));
    view.focus();
  } else if (e.key === "Delete" && row.block) act(p, row.key, removeBlock, "removed");
}

// --- what unfolds ---

function unfold(p, row, li) {
  if (p.form?.key === row.key && p.form.box.parentNode === li) return p.form.update(row);
  p.form?.box.remove();
  p.form = { key: row.key, ...unfolded(p, row) };
  p.form.box.classList.add("part-open");
  li.append(p.form.box);
  p.form.update(row);
}

function unfolded(p, row) {
  if (row.key === "page") return pageBox(p);
  if (row.key === "facts") return factsBox(p);
  if (row.block) return blockBox(p, row);
  const words = row.fixed
    ? [
        `Every page of the ${p.x.data.template} template shows this. It is changed in `,
        el("a", { href: p.x.data.templateUrl }, "the template"),
        ".",
      ]
    : row.slot
      ? row.slot.help || "Blocks of this page stand here."
      : row.kind + ": write it on the page.";
  const bad = el("ul", { class: "to-mend" });
  const box = el("div", {}, el("p", { class: "small quiet" }, ...[words].flat()), bad);
  if (row.slot) {
    const add = el("button", { type: "button", class: "btn", "aria-haspopup": "dialog" }, "Add a block…");
    add.addEventListener("click", () => p.x.add(add, p.x.endOf(row.slot.key), row.slot.takes));
    box.append(el("p", { class: "acts" }, add));
  }
  return { box, update: (r) => mend(bad, r.bad) };
}

const mend = (list, bad) => list.replaceChildren(...(bad || []).map((c) => el("li", {}, c.text)));

function pageBox(p) {
  const { facts } = p;
  facts.hidden = false;
  const outline = el("ol", { class: "headings" }),
    bad = el("ul", { class: "to-mend" });
  const box = el("div", {}, facts, el("h3", {}, "Headings"), outline, el("h3", {}, "To mend"), bad);
  return {
    box,
    update() {
      const found = headings(p.x.view.state.doc);
      outline.replaceChildren(
        ...found.map((h) => {
          const go = el("button", { type: "button", class: "link" }, h.words || "empty heading");
          go.addEventListener("click", () => p.x.select(h.pos, false));
          return el(
            "li",
            { class: "h" + h.level + (h.skips ? " skips" : "") },
            go,
            h.skips ? el("span", { class: "small req" }, " a level is left out") : null,
          );
        }),
        ...(found.length ? [] : [el("li", { class: "quiet" }, "No headings yet")]),
      );
      bad.replaceChildren(
        ...p.x.problems.map((c) => {
          const go = el("button", { type: "button", class: "link" }, c.text);
          go.addEventListener("click", () => goTo(p, c));
          return el("li", {}, go);
        }),
        ...(p.x.problems.length ? [] : [el("li", { class: "quiet" }, "Nothing")]),
      );
    },
  };
}

function goTo(p, c) {
  if (c.block) return p.x.select(findBlock(p.x.view.state.doc, c.block), false);
  const fact = p.x.data.parts.some((t) => t.kind === "facts" && t.fields.some((f) => f.key === c.part));
  if (fact) return p.x.parts.openFact(c.part);
  const lead = rowsOf(p).find(
    (r) => r.pos !== undefined && !r.block && p.x.view.state.doc.nodeAt(r.pos).type.spec.part.fields[0].key === c.part,
  );
  if (lead) return p.x.select(lead.pos, false);
  p.x.parts.focus("slot " + c.part);
}

// headings lists them with their levels; one that leaves out a level is told.
export function headings(doc) {
  const out = [];
  doc.descendants((node, pos) => {
    if (node.type.name !== "heading") return !node.isTextblock;
    const before = out.at(-1)?.level ?? 1;
    out.push({ level: node.attrs.level, words: node.textContent, pos, skips: node.attrs.level > before + 1 });
    return false;
  });
  return out;
}

function factsBox(p) {
  const { x } = p;
  const forms = [];
  x.view.state.doc.forEach((node, offset, i) => {
    const part = partOf(node);
    if (part.kind !== "facts") return;
    const form = makeForm(x, part.fields, node.attrs.values, (values) => {
      let pos = -1;
      x.view.state.doc.forEach((n, o, k) => k === i && (pos = o));
      x.view.dispatch(setOf(x.view.state, pos, { values }));
    });
    forms.push([form, i]);
  });
  const bad = el("ul", { class: "to-mend" });
  return {
    box: el("div", {}, ...forms.map(([f]) => f.box), bad),
    update(row) {
      for (const [form, i] of forms) {
        form.set(x.view.state.doc.child(i).attrs.values);
        form.able(x.editable());
      }
      mend(bad, row.bad);
    },
  };
}

// act does something to a block and keeps it selected here.
function act(p, id, command, said) {
  const { x } = p,
    { view } = x,
    pos = findBlock(view.state.doc, id);
  if (pos < 0 || !x.editable()) return;
  const name = x.kinds[typeOf(view.state.doc.nodeAt(pos))].name,
    pressed = document.activeElement.closest(".part-open .acts button")?.textContent;
  const tr = command(view.state, pos);
  if (!tr) return say(`${name} stands at the end already.`);
  view.dispatch(tr);
  const now = selectedBlock(view.state);
  if (said !== "removed" && now) p.open = now.node.attrs.id;
  draw(p);
  const li = p.rows.get(p.open),
    again = said !== "removed" && [...(li?.querySelectorAll(".part-open .acts button") || [])];
  const same = again && again.find((b) => pressed && b.textContent === pressed);
  (same || li?.querySelector(".part-row"))?.focus({ preventScroll: true });
  say(`${name} ${said}.`);
}

// withRows takes up the rows of a file that was chosen for a table.
async function withRows(x, at, set, change) {
  const was = x.view.state.doc.nodeAt(at())?.attrs.set.file;
  change({ set });
  if (!set.file || set.file === was) return;
  try {
    const { text, told } = await get(x.data.rows + "?" + new URLSearchParams({ at: set.file }));
    const now = at() >= 0 && x.view.state.doc.nodeAt(at()).attrs.set;
    if (now && now.file === set.file) change({ set: { ...now, text } });
    if (told) say(told);
  } catch (problem) {
    say(problem.message, true);
  }
}

// asText makes a table of a file one that is written on the page; the file stays among the files of the site.
function asText(x, pos) {
  const node = x.view.state.doc.nodeAt(pos),
    text = x.pages.node({ type: "text", id: key(), from: node.attrs.id, text: node.attrs.set.text || "" });
  x.view.dispatch(x.view.state.tr.replaceWith(pos, pos + node.nodeSize, text));
  x.select(pos, false);
}

function addInside(x, anchor, pos) {
  const node = x.view.state.doc.nodeAt(pos);
  x.add(anchor, pos + node.nodeSize - 1, takenBy(node));
}

function blockBox(p, row) {
  const { x } = p,
    kind = x.kinds[typeOf(row.block)],
    id = row.key;
  const at = () => findBlock(x.view.state.doc, id);
  const change = (attrs) => at() >= 0 && x.view.dispatch(setOf(x.view.state, at(), attrs));
  const take = kind.type === "table" ? (set) => withRows(x, at, set, change) : (set) => change({ set });
  const form = makeForm(x, kind.fields, row.block.attrs.set, take, kind.name);
  const items = kind.item && makeItems(x, kind, at, holds(kind) === "items");
  const bad = el("ul", { class: "to-mend" });
  const button = (words, title, run) => el("button", { type: "button", class: "btn", title, onclick: run }, words);
  const all = [
    button("Up", "Alt + ↑", () => act(p, id, (s, pos) => moveBlock(s, pos, -1), "moved")),
    button("Down", "Alt + ↓", () => act(p, id, (s, pos) => moveBlock(s, pos, 1), "moved")),
    button("Duplicate", "Another one below", () => act(p, id, duplicate, "duplicated")),
    button("Copy", "To the clipboard, for this page or another", () => x.copy(at(), false)),
    button("Cut", "To the clipboard", () => x.copy(at(), true)),
    x.data.copyTo && button("Copy to another page…", "", (e) => x.copyTo(e.target, at())),
    row.block.type.spec.holds && button("Add inside…", "A block in this part", (e) => addInside(x, e.target, at())),
    button("Add below…", "Ctrl + Enter", (e) =>
      x.add(e.target, at() + x.view.state.doc.nodeAt(at()).nodeSize, x.takesAt(at())),
    ),
    kind.type === "table" && button("Make it a text", "A table that is written on the page", () => asText(x, at())),
    button("Remove", "", () => act(p, id, removeBlock, "removed")),
  ];
  const acts = el("p", { class: "acts" }, ...all.filter(Boolean));
  return {
    box: el("div", {}, bad, form.box, items?.box, acts),
    update(r) {
      mend(bad, r.bad);
      form.set(r.block.attrs.set);
      items?.set(r.block);
      const on = x.editable();
      form.able(on);
      acts.querySelectorAll("button").forEach((b) => (b.disabled = !on && b.textContent !== "Copy"));
    },
  };
}
