// Drawing the outline: only the rows in sight are in the page, and a row is made anew only where it shows something else.
import { cellOf, columns, fitGrid, shownIn } from "./columns.js";
import { kindWords } from "../kinds.js";
import { chooseSeen, listed } from "./select.js";
import { countBelow, wayTo } from "./tree.js";
import { el, symbol } from "../../shared/say.js";
import { marksOf } from "../../shared/live.js";
import { drag } from "./drag.js";
import { indexOf, isOpen, narrowed, node } from "./rows.js";
import { onClick, onKey, paste } from "./keys.js";
import { refresh } from "./filters.js";
import { rename } from "./adding.js";

export const ROW = 32,
  MARGIN = 12;

export function build(o) {
  o.head = el("div", { class: "o-head", role: "row" });
  o.head.addEventListener("click", (e) => {
    const id = e.target.closest("[data-col]")?.dataset.col;
    if (!id) return;
    o.state.sort = { [id]: "-" + id, ["-" + id]: "" }[o.state.sort] ?? id;
    refresh(o);
    chooseSeen(o);
  });
  o.space = el("div", { class: "o-space", role: "rowgroup" });
  o.scroll = el(
    "div",
    { class: "o-scroll", tabindex: "0", role: "treegrid", "aria-multiselectable": "true", "aria-label": "Sitemap" },
    o.head,
    o.space,
  );
  o.root.replaceChildren(o.scroll);
  o.scroll.addEventListener("scroll", () => requestAnimationFrame(() => draw(o)), { passive: true });
  let tall = 0; // a chosen row in sight stays so when the room gets less
  new ResizeObserver(() => {
    const top = indexOf(o, o.state.selected) * ROW,
      seen = o.scroll.clientHeight - headHeight(o);
    if (top >= o.scroll.scrollTop && top + ROW <= o.scroll.scrollTop + tall && top + ROW > o.scroll.scrollTop + seen)
      o.scroll.scrollTop = top + ROW - seen;
    tall = seen;
    draw(o);
  }).observe(o.scroll);
  o.scroll.addEventListener("keydown", (e) => onKey(o, e));
  o.scroll.addEventListener("click", (e) => onClick(o, e));
  o.scroll.addEventListener("dblclick", (e) => {
    if (e.target.closest(".t")) rename(o);
    else if (e.target.closest(".can") && o.state.col) o.cell.edit(node(o), o.state.col);
  });
  o.scroll.addEventListener("pointerdown", (e) => drag(o, e));
  o.scroll.addEventListener("paste", (e) => {
    if (e.target !== o.scroll) return;
    e.preventDefault();
    const text = e.clipboardData.getData("text/plain");
    if (o.state.col) o.cell.paste(text);
    else paste(o, text);
  });
  o.scroll.addEventListener("copy", (e) => {
    if (e.target !== o.scroll) return;
    e.preventDefault();
    e.clipboardData.setData("text/plain", o.cell.copied() ?? listed(o));
  });
}

export function drawHead(o) {
  fitGrid(o.scroll, o.state.cols);
  o.head.replaceChildren(
    ...["title", ...o.state.cols].map((id) => {
      const on = o.state.sort.replace(/^-/, "") === id,
        down = o.state.sort.startsWith("-");
      return el(
        "span",
        {
          role: "columnheader",
          "data-col": id,
          title: on ? null : "Sort the view by this",
          "aria-sort": on ? (down ? "descending" : "ascending") : "none",
        },
        columns[id].label,
        on ? el("span", { "aria-hidden": "true" }, down ? " ▾" : " ▴") : null,
      );
    }),
  );
}

export const headHeight = (o) => o.head.offsetHeight;

export function draw(o) {
  if (!o.scroll) return;
  document.getElementById("outline-empty")?.toggleAttribute("hidden", o.tree.nodes.size > 0);
  const from = Math.max(0, Math.floor(o.scroll.scrollTop / ROW) - MARGIN);
  const to = Math.min(o.state.visible.length, Math.ceil((o.scroll.scrollTop + o.scroll.clientHeight) / ROW) + MARGIN);
  o.space.style.height = o.state.visible.length * ROW + "px";
  o.scroll.setAttribute("aria-rowcount", o.state.visible.length + 1);
  // The row in which somebody types stays in the page, so that no letter and no mark is lost.
  const typing = o.state.editing?.field.closest(".o-row"),
    at = typing ? indexOf(o, o.state.editing.id) : -1;
  const writes = !typing || o.state.editing.field.contains(document.activeElement); // it is opened now, or has the focus
  const rows = [];
  for (let i = from; i < to; i++) rows.push(i === at ? typing : keptRow(o, o.state.visible[i], i));
  if (typing && at >= 0) {
    typing.style.top = at * ROW + "px";
    if (at < from) rows.unshift(typing); // out of sight
    if (at >= to) rows.push(typing);
  }
  putRows(o, rows);
  o.drawn = new Map(rows.filter((r) => r !== typing).map((r) => [r.dataset.id, r]));
  const sel = document.getElementById("row-" + o.state.selected);
  if (sel) o.scroll.setAttribute("aria-activedescendant", sel.id);
  else o.scroll.removeAttribute("aria-activedescendant");
  // Moving the row takes the focus from its field; whoever clicked elsewhere did so on purpose.
  const field = writes && o.state.editing?.field;
  if (field?.isConnected && !field.contains(document.activeElement)) field.focus();
}

// putRows makes these the rows in the page. What is there already is not touched: putting a row in costs more than making it.
function putRows(o, rows) {
  const stays = new Set(rows);
  for (const child of [...o.space.children]) if (!stays.has(child)) child.remove();
  let at = o.space.firstChild;
  for (const row of rows) {
    if (row === at) at = at.nextSibling;
    else o.space.insertBefore(row, at);
  }
}

// what a row shows, in one text
function keptRow(o, v, i) {
  const n = v.node,
    had = o.drawn.get(n.id);
  const what = [
    v.depth,
    v.faint,
    n.id === o.state.selected,
    o.state.chosen.has(n.id),
    o.state.col,
    o.state.sort,
    narrowed(o) || o.state.sort ? o.state.visible[i + 1]?.depth > v.depth : isOpen(o, n, v.depth),
    o.plan.pending()?.id === n.id,
    n.kids.length && !isOpen(o, n, v.depth) ? countBelow(o, n) : n.kids.length > 0,
    n.t,
    n.k,
    n.r,
    n.w,
    n.bad,
    n.waiting,
    n.m,
    o.state.sort ? wayTo(o, n) : "",
    (o.here.get(n.id) || []).map((h) => h.name + h.writes + h.since),
    ...o.state.cols.map((id) => shownIn(columns[id], n, o.names) + (columns[id].wrong?.(n) || "")),
    o.state.cols,
  ].join("\u0001");
  if (had && o.shows.get(had) === what && o.state.editing?.id !== n.id) {
    had.style.top = i * ROW + "px";
    had.setAttribute("aria-rowindex", i + 2);
    return had;
  }
  const row = rowOf(o, v, i);
  if (o.state.editing?.id !== n.id) o.shows.set(row, what);
  return row;
}

function rowOf(o, { node: n, depth, faint }, i) {
  const selected = n.id === o.state.selected || o.state.chosen.has(n.id),
    open = narrowed(o) || o.state.sort ? o.state.visible[i + 1]?.depth > depth : isOpen(o, n, depth);
  const row = el("div", {
    class:
      "o-row" +
      (selected ? " sel" : "") +
      (n.id === o.state.selected ? (o.state.col ? " at in-cell" : " at") : "") +
      (n.m?.length ? " planned" : "") +
      (o.plan.pending()?.id === n.id ? " pending" : "") +
      (n.waiting ? " waiting" : ""),
    role: "row",
    id: "row-" + n.id,
    "data-id": n.id,
    "aria-level": depth,
    "aria-selected": String(selected),
    "aria-rowindex": i + 2,
    "aria-expanded": n.kids.length ? String(open) : null,
  });
  row.style.top = i * ROW + "px";
  if (faint) row.style.opacity = "0.72";
  const title = el("div", { class: "o-title", role: "gridcell" });
  title.style.paddingLeft = 8 + (depth - 1) * 22 + "px";
  title.append(
    el(
      "span",
      { class: "twist" + (n.kids.length && !o.state.sort ? "" : " none"), "data-twist": true, "aria-hidden": "true" },
      open ? "▾" : "▸",
    ),
    kindSymbol(n),
  );
  if (o.state.editing?.id === n.id && o.state.editing.col === "title") title.append(o.state.editing.field);
  else {
    title.append(el("span", { class: "t", title: n.t.length > 40 ? n.t : null }, n.t));
    if (n.bad) title.append(el("span", { class: "mark-tag is-error", title: n.bad }, n.bad));
    for (const m of new Set(n.m || [])) title.append(el("span", { class: "mark-tag", title: m }, m));
    title.append(...marksOf(o.here.get(n.id) || []));
    if (n.k === "reference" && n.r) title.append(el("span", { class: "o-note" }, "see " + n.r));
    if (o.state.sort) title.append(el("span", { class: "o-note" }, wayTo(o, n)));
    else if (n.kids.length && !open) title.append(el("span", { class: "o-note" }, countBelow(o, n) + " below"));
  }
  row.append(title);
  for (const id of o.state.cols) {
    const c = cellOf(id, n, o.names);
    if (n.id === o.state.selected && id === o.state.col) c.classList.add("in");
    if (o.state.editing?.id === n.id && o.state.editing.col === id) c.replaceChildren(o.state.editing.field);
    row.append(c);
  }
  return row;
}

function kindSymbol(n) {
  const s = symbol("k-" + n.k, "k");
  s.removeAttribute("aria-hidden");
  s.setAttribute("role", "img");
  s.setAttribute("aria-label", kindWords[n.k]);
  return el("span", { title: kindWords[n.k], class: "kind" }, s);
}
