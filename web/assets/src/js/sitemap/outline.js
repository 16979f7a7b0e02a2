// The outline: the whole tree in memory, only the rows in sight in the page.
import { say, get, el, symbol, key } from "../shared/say.js";
import { planner } from "./plan.js";
import { columns, fact, learn, usual, kindWords, fitGrid, cellOf, shownIn, sorted } from "./columns.js";
import { cells } from "./cells.js";
import { grab } from "../shared/grab.js";
import { looks, fits as fitsOnly } from "./looks.js";
import { mergeOrder } from "../shared/waiting.js";

const ROW = 32,
  MARGIN = 12;

const keys = [
  ["↑ ↓", "select the entry above or below"],
  ["← →", "close or open the branch; go up or into the cells"],
  ["n", "add an entry after this one; Enter goes on to the next, Alt → and Alt ← place it"],
  ["Shift n", "add an entry below this one"],
  ["Enter", "rename"],
  ["→", "open a closed branch, then enter its cells; Esc leaves them"],
  [
    "in a cell",
    "Enter or F2 to edit, Tab to the next, Delete clears, Ctrl D fills down, Ctrl C and Ctrl V copy and paste",
  ],
  ["Alt ↑", "move up, Alt ↓ down"],
  ["Alt →", "indent, Alt ← outdent"],
  ["m", "move to …"],
  ["c", "copy with everything below it"],
  ["s", "sort entries below A–Z, Shift s on all levels"],
  ["b", "select the whole branch"],
  ["Delete", "remove"],
  ["t", "find in the tree"],
  ["o", "open the page"],
  ["f", "go to the facts on the right"],
  ["Shift ↑ ↓", "select several, Ctrl A all visible"],
  ["Ctrl V", "paste a list of entries below this one"],
  ["Ctrl Z", "undo, Ctrl Shift Z redo"],
  ["1 … 6", "open to that level"],
];

const filters = [
  ["all", "All", () => true],
  ["changed", "Changed", (n) => n.m?.length > 0],
  ["no-owner", "No owner", (n) => !!n.fits?.includes("no-owner")],
  ["bare", "Carried, unwritten", (n) => n.b],
  ["found", "Findings", (n) => checks[n.id] > 0],
];

let checks = {}; // how much there is to look at, by entry

const folded = (s) => s.normalize("NFD").replace(/\p{M}/gu, "").toLowerCase();
const wordsOf = (s) => folded(s).split(/\s+/).filter(Boolean);

export function startOutline(root) {
  learn(JSON.parse(root.dataset.fields));
  const url = new URL(location.href);
  const tree = { nodes: new Map(), tops: [], version: 0, edition: 0, home: null };
  const state = {
    selected: root.dataset.at || null,
    level: Number(url.searchParams.get("level") || 2),
    flipped: new Set((url.searchParams.get("flip") || "").split(".").filter(Boolean)),
    filter: url.searchParams.get("show") || "all",
    words: wordsOf(url.searchParams.get("find") || ""),
    visible: [],
    chosen: new Set(),
    anchor: null,
    editing: null,
    only: url.searchParams.get("only") || "",
    sort: "",
    cols: usual,
    col: null, // col: the cell that keys go to
  };
  lookAs(url.searchParams);
  let scroll,
    space,
    head,
    names = { kinds: [], templates: [], owners: [] };

  function lookAs(query) {
    const sort = query.get("sort") || "",
      cols = (query.get("cols") || "").split(".").filter((id) => columns[id] && id !== "title");
    state.sort = columns[sort.replace(/^-/, "")] ? sort : "";
    state.cols = query.has("cols") ? cols : usual;
  }

  // --- the tree ---

  function take(rows) {
    for (const r of rows) {
      const old = tree.nodes.get(r.id); // stays the same object, so that the rows in sight need not be laid out anew
      if (old) {
        for (const k of Object.keys(old)) if (k !== "kids" && !(k in r)) delete old[k];
        Object.assign(old, r);
      } else tree.nodes.set(r.id, Object.assign(r, { kids: [] }));
      if (r.h) tree.home = r.id;
    }
  }

  // What only this window knows: being typed, on its way, or refused.
  const isLocal = (id) => {
    const n = tree.nodes.get(id);
    return !!n && !!(n.fresh || n.waiting || n.bad);
  };
  const siblingsOf = (n) => (n.p ? tree.nodes.get(n.p)?.kids || [] : tree.tops);

  function load(rows) {
    const local = [...tree.nodes.values()]
      .filter((n) => isLocal(n.id))
      .map((n) => ({ n, before: siblingsOf(n)[siblingsOf(n).indexOf(n.id) - 1] }));
    tree.nodes.clear();
    tree.tops = [];
    tree.home = null;
    take(rows);
    for (const r of rows) {
      if (r.h) continue;
      const parent = r.p && tree.nodes.get(r.p);
      (parent ? parent.kids : tree.tops).push(r.id);
    }
    for (const { n, before } of local) putLocal(n, before);
  }

  // putLocal puts an entry that only this window knows behind a sibling.
  function putLocal(n, before) {
    if (tree.nodes.has(n.id) || (n.p && !tree.nodes.has(n.p))) return; // the server knows it by now, or has no place for it
    tree.nodes.set(n.id, n);
    n.kids = n.kids.filter(isLocal);
    const siblings = siblingsOf(n);
    siblings.splice(before ? siblings.indexOf(before) + 1 : 0, 0, n.id);
  }

  // apply takes up an answer, and tells whether anything stands elsewhere then.
  function apply(answer) {
    let moved = (answer.drop || []).length > 0 || (answer.put || []).some((r) => !tree.nodes.has(r.id));
    for (const id of answer.drop || []) tree.nodes.delete(id);
    take(answer.put || []);
    for (const [parent, ids] of Object.entries(answer.order || {})) {
      const kept = mergeOrder(
        (parent ? tree.nodes.get(parent)?.kids : tree.tops) || [],
        ids.filter((id) => tree.nodes.has(id)),
        isLocal,
      );
      const had = parent ? tree.nodes.get(parent)?.kids : tree.tops;
      moved ||= had?.length !== kept.length || had.some((id, i) => id !== kept[i]);
      if (!parent) tree.tops = kept;
      else if (tree.nodes.has(parent)) tree.nodes.get(parent).kids = kept;
    }
    tree.version = answer.version;
    if (answer.edition) tree.edition = answer.edition;
    return moved;
  }

  const isOpen = (n, depth) => n.kids.length > 0 && depth < state.level !== state.flipped.has(n.id);

  // What is shown: all, or what the filter and every word looked for fit.
  const narrowed = () => state.filter !== "all" || state.only !== "" || state.words.length > 0;
  function fitting() {
    const filter = filters.find((f) => f[0] === state.filter)?.[2] || filters[0][2],
      only = fitsOnly(state.only);
    return (n) => filter(n) && only(n) && found(n);
  }
  function found(n) {
    if (!state.words.length) return true;
    n.f ??= folded(
      [n.t, fact(n, "short"), n.a, fact(n, "owner"), fact(n, "topics"), kindWords[n.k]].filter(Boolean).join("\n"),
    );
    return state.words.every((w) => n.f.includes(w));
  }

  function layout() {
    const out = [];
    const fits = fitting();
    if (state.sort) {
      // a plain list
      for (const node of sorted(
        [...tree.nodes.values()].filter((n) => !n.fresh && fits(n)),
        state.sort,
        names,
      ))
        out.push({ node, depth: 1 });
    } else if (!narrowed()) {
      if (tree.home) out.push({ node: tree.nodes.get(tree.home), depth: 1 });
      const walk = (ids, depth) => {
        for (const id of ids) {
          const node = tree.nodes.get(id);
          if (!node) continue;
          out.push({ node, depth });
          if (isOpen(node, depth)) walk(node.kids, depth + 1);
        }
      };
      walk(tree.tops, 1);
    } else {
      // what fits, with its ancestors in sight
      const walk = (ids, depth) => {
        let any = false;
        for (const id of ids) {
          const node = tree.nodes.get(id);
          const at = out.length;
          out.push({ node, depth, faint: !fits(node) });
          if (!walk(node.kids, depth + 1) && !fits(node)) out.splice(at);
          else any = true;
        }
        return any;
      };
      if (tree.home && fits(tree.nodes.get(tree.home))) out.push({ node: tree.nodes.get(tree.home), depth: 1 });
      walk(tree.tops, 1);
    }
    state.visible = out;
  }

  const indexOf = (id) => state.visible.findIndex((v) => v.node.id === id);
  const node = () => tree.nodes.get(state.selected);

  function reveal(id) {
    let depth = 0;
    const chain = [];
    for (let n = tree.nodes.get(tree.nodes.get(id)?.p); n; n = tree.nodes.get(n.p)) chain.unshift(n);
    for (const n of chain) {
      depth++;
      if (!isOpen(n, depth)) state.flipped.has(n.id) ? state.flipped.delete(n.id) : state.flipped.add(n.id);
    }
    if ((narrowed() || state.sort) && !state.visible.some((v) => v.node.id === id)) {
      state.filter = "all";
      state.only = state.sort = "";
      state.words = [];
      find.value = "";
    }
  }

  // --- drawing ---

  function build() {
    head = el("div", { class: "o-head", role: "row" });
    head.addEventListener("click", (e) => {
      const id = e.target.closest("[data-col]")?.dataset.col;
      if (!id) return;
      state.sort = { [id]: "-" + id, ["-" + id]: "" }[state.sort] ?? id;
      refresh();
      chooseSeen();
    });
    space = el("div", { class: "o-space", role: "rowgroup" });
    scroll = el(
      "div",
      { class: "o-scroll", tabindex: "0", role: "treegrid", "aria-multiselectable": "true", "aria-label": "Sitemap" },
      head,
      space,
    );
    root.replaceChildren(scroll);
    scroll.addEventListener("scroll", () => requestAnimationFrame(draw), { passive: true });
    let tall = 0; // a chosen row in sight stays so when the room gets less
    new ResizeObserver(() => {
      const top = indexOf(state.selected) * ROW,
        seen = scroll.clientHeight - headHeight();
      if (top >= scroll.scrollTop && top + ROW <= scroll.scrollTop + tall && top + ROW > scroll.scrollTop + seen)
        scroll.scrollTop = top + ROW - seen;
      tall = seen;
      draw();
    }).observe(scroll);
    scroll.addEventListener("keydown", onKey);
    scroll.addEventListener("click", onClick);
    scroll.addEventListener("dblclick", (e) => {
      if (e.target.closest(".t")) rename();
      else if (e.target.closest(".can") && state.col) cell.edit(node(), state.col);
    });
    scroll.addEventListener("pointerdown", (e) =>
      grab(e, {
        scroll,
        space,
        tree,
        sorted: () => state.sort !== "",
        holds,
        on: (id) => (many() && state.chosen.has(id) ? plan.on() : { id }),
        act,
      }),
    );
    scroll.addEventListener("paste", (e) => {
      if (e.target !== scroll) return;
      e.preventDefault();
      const text = e.clipboardData.getData("text/plain");
      if (state.col) cell.paste(text);
      else paste(text);
    });
    scroll.addEventListener("copy", (e) => {
      if (e.target !== scroll) return;
      e.preventDefault();
      e.clipboardData.setData("text/plain", cell.copied() ?? listed());
    });
  }

  // listed is what is chosen as an indented list, as it can be pasted.
  function listed() {
    const taken = new Set(),
      lines = [];
    const walk = (id, depth) => {
      const n = tree.nodes.get(id);
      if (taken.has(id)) return;
      taken.add(id);
      lines.push("\t".repeat(depth) + n.t);
      for (const kid of n.kids) walk(kid, depth + 1);
    };
    for (const id of plan.many() ? inSight() : [state.selected]) walk(id, 0);
    return lines.join("\n");
  }
  const inSight = () =>
    many() ? state.visible.filter((v) => state.chosen.has(v.node.id)).map((v) => v.node.id) : [state.selected];

  function drawHead() {
    fitGrid(scroll, state.cols);
    head.replaceChildren(
      ...["title", ...state.cols].map((id) => {
        const on = state.sort.replace(/^-/, "") === id,
          down = state.sort.startsWith("-");
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

  function refresh(fromTop) {
    layout();
    drawFilters();
    drawHead();
    if (fromTop) scroll.scrollTop = 0;
    draw();
    remember();
    if (fromTop) chooseSeen();
  }

  function drawFilters() {
    const counts = Object.fromEntries(filters.map((f) => [f[0], 0]));
    for (const n of tree.nodes.values()) for (const [name, , fits] of filters) if (fits(n)) counts[name]++;
    look.drawOnly();
    document.getElementById("filters").replaceChildren(
      ...filters
        .filter(([name]) => counts[name] || name === "all" || name === state.filter)
        .map(([name, label]) =>
          el(
            "button",
            {
              type: "button",
              class: "chip",
              "aria-pressed": String(state.filter === name),
              onclick: () => {
                state.filter = name;
                refresh();
                chooseSeen();
              },
            },
            label + " ",
            el("b", {}, counts[name].toLocaleString("en")),
          ),
        ),
      narrowed() || state.sort
        ? el("span", { class: "quiet small", "aria-live": "polite" }, shownWords())
        : levelChoice(),
      ...chooseButton(),
    );
  }

  const countFitting = () => state.visible.filter((v) => !v.faint).length;
  function shownWords() {
    if (state.sort)
      return `${state.visible.length.toLocaleString("en")} sorted by ${columns[state.sort.replace(/^-/, "")].label.toLowerCase()}`;
    const n = countFitting();
    return n ? `${n.toLocaleString("en")} found; faint rows only show the way` : "Nothing in the tree fits this";
  }
  function levelChoice() {
    return el(
      "select",
      {
        class: "in level-of",
        id: "o-level",
        "aria-label": "Open to level",
        onchange: (e) => openTo(Number(e.target.value)),
      },
      ...[1, 2, 3, 4, 5, 6, 7, 8, 9].map((l) =>
        el("option", { value: l, selected: l === state.level }, l === 9 ? "All levels open" : `Open to level ${l}`),
      ),
    );
  }
  function openTo(level) {
    state.level = level;
    state.flipped.clear();
    refresh();
    chooseSeen();
  }
  function chooseButton() {
    const n = narrowed() ? countFitting() : 0;
    return n > 1
      ? [
          el(
            "button",
            {
              type: "button",
              class: "link small",
              onclick: () => {
                chooseAll();
                scroll.focus({ preventScroll: true });
              },
            },
            `Choose all ${n.toLocaleString("en")}`,
          ),
        ]
      : [];
  }

  // Finding narrows the tree as one types; Enter or an arrow goes into it.
  const find = document.getElementById("o-find");
  find.value = url.searchParams.get("find") || "";
  find.addEventListener("input", () => {
    state.words = wordsOf(find.value);
    scroll.scrollTop = 0;
    refresh();
    chooseSeen();
  });
  find.addEventListener("keydown", (e) => {
    if (e.key === "Enter" || e.key === "ArrowDown") {
      e.preventDefault();
      const first = bestFound();
      if (first) select(first.id, true);
    }
    if (e.key === "Escape" && !find.value) scroll.focus({ preventScroll: true });
  });

  // bestFound is what was meant: its title before beginnings, words and addresses, pages before references.
  function bestFound() {
    const q = folded(find.value.trim());
    const rank = (n) => {
      const t = folded(n.t),
        last = (n.a || "").slice((n.a || "").lastIndexOf("/") + 1);
      const k =
        t === q
          ? 0
          : t.startsWith(q)
            ? 1
            : t.includes(" " + q)
              ? 2
              : (n.a || "").startsWith(q) || last.startsWith(q)
                ? 3
                : t.includes(q)
                  ? 4
                  : 5;
      return 2 * k + (n.k === "reference" ? 1 : 0);
    };
    return state.visible
      .filter((v) => !v.faint)
      .map((v) => v.node)
      .reduce((best, n) => (!best || rank(n) < rank(best) ? n : best), null);
  }

  const headHeight = () => head.offsetHeight;

  function draw() {
    if (!scroll) return;
    document.getElementById("outline-empty")?.toggleAttribute("hidden", tree.nodes.size > 0);
    const from = Math.max(0, Math.floor(scroll.scrollTop / ROW) - MARGIN);
    const to = Math.min(state.visible.length, Math.ceil((scroll.scrollTop + scroll.clientHeight) / ROW) + MARGIN);
    space.style.height = state.visible.length * ROW + "px";
    scroll.setAttribute("aria-rowcount", state.visible.length + 1);
    // The row in which somebody types stays in the page, so that no letter and no mark is lost.
    const typing = state.editing?.field.closest(".o-row"),
      at = typing ? indexOf(state.editing.id) : -1;
    const rows = [];
    for (let i = from; i < to; i++) rows.push(i === at ? typing : keptRow(state.visible[i], i));
    if (typing && at >= 0) {
      typing.style.top = at * ROW + "px";
      if (at < from) rows.unshift(typing); // out of sight
      if (at >= to) rows.push(typing);
    }
    putRows(rows);
    drawn = new Map(rows.filter((r) => r !== typing).map((r) => [r.dataset.id, r]));
    const sel = document.getElementById("row-" + state.selected);
    if (sel) scroll.setAttribute("aria-activedescendant", sel.id);
    else scroll.removeAttribute("aria-activedescendant");
    if (state.editing?.field.isConnected && document.activeElement !== state.editing.field) state.editing.field.focus();
  }

  // putRows makes these the rows in the page. What is there already is not touched: putting a row in costs more than making it.
  function putRows(rows) {
    const stays = new Set(rows);
    for (const child of [...space.children]) if (!stays.has(child)) child.remove();
    let at = space.firstChild;
    for (const row of rows) {
      if (row === at) at = at.nextSibling;
      else space.insertBefore(row, at);
    }
  }

  // keptRow gives the row that was drawn before, if it still shows the same: most rows do, and making one is what costs.
  let drawn = new Map();
  const shows = new WeakMap(); // what a row shows, in one text
  function keptRow(v, i) {
    const n = v.node,
      had = drawn.get(n.id);
    const what = [
      v.depth,
      v.faint,
      n.id === state.selected,
      state.chosen.has(n.id),
      state.col,
      state.sort,
      narrowed() || state.sort ? state.visible[i + 1]?.depth > v.depth : isOpen(n, v.depth),
      plan.pending()?.id === n.id,
      n.kids.length && !isOpen(n, v.depth) ? countBelow(n) : n.kids.length > 0,
      n.t,
      n.k,
      n.r,
      n.w,
      n.bad,
      n.waiting,
      n.m,
      state.sort ? wayTo(n) : "",
      ...state.cols.map((id) => shownIn(columns[id], n, names) + (columns[id].wrong?.(n) || "")),
      state.cols,
    ].join("\u0001");
    if (had && shows.get(had) === what && state.editing?.id !== n.id) {
      had.style.top = i * ROW + "px";
      had.setAttribute("aria-rowindex", i + 2);
      return had;
    }
    const row = rowOf(v, i);
    if (state.editing?.id !== n.id) shows.set(row, what);
    return row;
  }

  function rowOf({ node: n, depth, faint }, i) {
    const selected = n.id === state.selected || state.chosen.has(n.id),
      open = narrowed() || state.sort ? state.visible[i + 1]?.depth > depth : isOpen(n, depth);
    const row = el("div", {
      class:
        "o-row" +
        (selected ? " sel" : "") +
        (n.id === state.selected ? (state.col ? " at in-cell" : " at") : "") +
        (n.m?.length ? " planned" : "") +
        (plan.pending()?.id === n.id ? " pending" : "") +
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
        { class: "twist" + (n.kids.length && !state.sort ? "" : " none"), "data-twist": true, "aria-hidden": "true" },
        open ? "▾" : "▸",
      ),
      kindSymbol(n),
    );
    if (state.editing?.id === n.id && state.editing.col === "title") title.append(state.editing.field);
    else {
      title.append(el("span", { class: "t", title: n.t.length > 40 ? n.t : null }, n.t));
      if (n.bad) title.append(el("span", { class: "mark-tag is-error", title: n.bad }, n.bad));
      for (const m of new Set(n.m || [])) title.append(el("span", { class: "mark-tag", title: m }, m));
      if (n.k === "reference" && n.r) title.append(el("span", { class: "o-note" }, "see " + n.r));
      if (state.sort) title.append(el("span", { class: "o-note" }, wayTo(n)));
      else if (n.kids.length && !open) title.append(el("span", { class: "o-note" }, countBelow(n) + " below"));
    }
    row.append(title);
    for (const id of state.cols) {
      const c = cellOf(id, n, names);
      if (n.id === state.selected && id === state.col) c.classList.add("in");
      if (state.editing?.id === n.id && state.editing.col === id) c.replaceChildren(state.editing.field);
      row.append(c);
    }
    return row;
  }

  function wayTo(n) {
    const way = [];
    for (let p = tree.nodes.get(n.p); p; p = tree.nodes.get(p.p)) way.unshift(p.t);
    return way.length ? "in " + way.join(" › ") : "";
  }

  function kindSymbol(n) {
    const s = symbol("k-" + n.k, "k");
    s.removeAttribute("aria-hidden");
    s.setAttribute("role", "img");
    s.setAttribute("aria-label", kindWords[n.k]);
    return el("span", { title: kindWords[n.k], class: "kind" }, s);
  }

  function countBelow(n) {
    let c = 0;
    for (const id of n.kids) c += 1 + countBelow(tree.nodes.get(id));
    return c;
  }

  function remember() {
    const u = new URL(location.href);
    const set = (name, value, usual) =>
      value && value !== usual ? u.searchParams.set(name, value) : u.searchParams.delete(name);
    set("at", state.selected);
    set("show", state.filter, "all");
    set("only", state.only, "");
    set("sort", state.sort, "");
    if (state.cols.join(".") === usual.join(".")) u.searchParams.delete("cols");
    else u.searchParams.set("cols", state.cols.join("."));
    set("find", find.value.trim(), "");
    set("level", String(state.level), "2");
    set(
      "flip",
      [...state.flipped]
        .filter((id) => tree.nodes.has(id))
        .slice(0, 40)
        .join("."),
    );
    history.replaceState(history.state, "", u);
  }

  // Choosing several: what is chosen besides holds state.selected, too.
  const many = () => state.chosen.size > 1;

  function chooseTo(id) {
    // from the anchor to here, as in sight
    state.anchor ||= state.selected;
    const from = indexOf(state.anchor),
      to = indexOf(id);
    if (from < 0 || to < 0) return;
    state.chosen = new Set(
      state.visible
        .slice(Math.min(from, to), Math.max(from, to) + 1)
        .map((v) => v.node.id)
        .filter((i) => i !== tree.home),
    );
    moveOn(id);
  }
  function chooseAlso(id) {
    if (id === tree.home) return;
    if (!state.chosen.size && state.selected !== tree.home) state.chosen.add(state.selected);
    state.chosen.has(id) && state.chosen.size > 1 ? state.chosen.delete(id) : state.chosen.add(id);
    state.anchor = id;
    moveOn(state.chosen.has(id) ? id : [...state.chosen].at(-1));
  }
  function chooseAll() {
    state.chosen = new Set(state.visible.filter((v) => !v.faint && v.node.id !== tree.home).map((v) => v.node.id));
    if (state.chosen.size) moveOn(state.chosen.has(state.selected) ? state.selected : [...state.chosen][0]);
  }
  function chooseBelow() {
    const n = node();
    if (!n?.kids.length) return say("Nothing is below this entry.");
    const branch = [],
      walk = (m, depth) => {
        branch.push(m.id);
        if (m.kids.length && !narrowed() && !isOpen(m, depth))
          state.flipped.has(m.id) ? state.flipped.delete(m.id) : state.flipped.add(m.id);
        for (const id of m.kids) walk(tree.nodes.get(id), depth + 1);
      };
    if (n.id === tree.home) return say("Ctrl A selects all visible entries.");
    walk(n, state.visible[indexOf(n.id)]?.depth || 1);
    refresh();
    const seen = new Set(state.visible.filter((v) => !v.faint).map((v) => v.node.id));
    state.chosen = new Set(branch.filter((id) => seen.has(id)));
    moveOn(n.id);
  }
  // What goes out of sight is not chosen any more: nobody removes what they do not see.
  function chooseSeen() {
    if (!many()) return;
    const seen = new Set(state.visible.filter((v) => !v.faint).map((v) => v.node.id));
    const left = [...state.chosen].filter((id) => seen.has(id));
    dropPending();
    if (left.length < 2) return select(left[0] || state.selected);
    state.chosen = new Set(left);
    if (!state.chosen.has(state.selected)) state.selected = left.at(-1);
    draw();
    showFacts();
  }
  function moveOn(id) {
    dropPending();
    const { chosen, anchor } = state;
    select(id, true);
    Object.assign(state, { chosen, anchor });
    draw();
    showFacts();
  }

  function select(id, focus) {
    if (!id) return;
    const changed = state.selected !== id || many();
    state.chosen = new Set();
    state.anchor = null;
    state.selected = id;
    const i = indexOf(id);
    if (i >= 0) {
      const top = i * ROW,
        seen = scroll.clientHeight - headHeight();
      if (top < scroll.scrollTop) scroll.scrollTop = top;
      else if (top + ROW > scroll.scrollTop + seen) scroll.scrollTop = top + ROW - seen;
    }
    draw();
    remember();
    if (focus) scroll.focus({ preventScroll: true });
    if (changed) showFacts();
  }

  // --- acts, and what is told beside ---

  const plan = planner(root, {
    selected: () => state.selected,
    chosen: () => [...state.chosen],
    version: () => tree.version,
    home: () => tree.home,
    settle,
    reload,
    draw: () => draw(),
    run: (what, button) => run(what, button),
    focus: () => scroll.focus({ preventScroll: true }),
    edition: () => tree.edition,
    busy: () => !!state.editing,
    added,
    refused: refuse,
    others,
  });
  const { act, showFacts, dropPending, confirmPending, leavePending } = plan;
  const look = looks(root, { state, tree, names: () => names, refresh: (fromTop) => refresh(fromTop), go });
  const cell = cells({
    state,
    tree,
    node,
    select: (id) => select(id, true),
    rows: () => state.visible,
    names: () => names,
    act: (form) => act(form),
    draw: () => draw(),
    step: (delta) => step(delta),
    focus: () => scroll.focus({ preventScroll: true }),
    chosen: inSight,
  });

  // go looks at the tree as a kept view does.
  function go(query) {
    const q = new URLSearchParams(query);
    lookAs(q);
    find.value = q.get("find") || "";
    Object.assign(state, {
      filter: q.get("show") || "all",
      only: q.get("only") || "",
      words: wordsOf(find.value),
      level: Number(q.get("level") || 2),
      flipped: new Set((q.get("flip") || "").split(".").filter(Boolean)),
      col: null,
    });
    refresh(true);
    scroll.focus({ preventScroll: true });
  }

  // settle shows what an act did, and keeps in sight what is chosen: by opening
  // the way there, or, where a filter hides it now, by choosing a neighbour.
  function settle(answer, form = {}) {
    const at = indexOf(state.selected),
      rows = state.visible;
    apply(answer);
    updateChecks();
    const wanted = [form.stay ? null : answer.select, state.selected].find((id) => tree.nodes.has(id));
    const made = ["add", "paste", "copy"].includes(form.do);
    if (wanted) {
      state.selected = wanted;
      if (made || (!narrowed() && !state.sort)) reveal(wanted);
    }
    layout();
    const seen = new Set(state.visible.map((v) => v.node.id));
    if (!seen.has(state.selected)) {
      const near = [...rows.slice(Math.max(at, 0)), ...rows.slice(0, Math.max(at, 0)).reverse()];
      state.selected =
        near.find((v) => seen.has(v.node.id) && !v.faint)?.node.id ||
        state.visible[0]?.node.id ||
        wanted ||
        tree.tops[0] ||
        tree.home;
    }
    refresh();
    const chosen = new Set([...state.chosen].filter((id) => seen.has(id)));
    const keep = chosen.has(state.selected) && chosen.size > 1;
    select(state.selected);
    if (keep) {
      state.chosen = chosen;
      draw();
    }
  }

  function begin(data) {
    ({ names } = data);
    look.setViews(data.views);
    load(data.rows);
    tree.version = data.version;
    tree.edition = data.edition;
    updateChecks();
  }

  // What the checks find is asked for a moment after an act: it can be elsewhere.
  let checkTimer;
  function updateChecks() {
    clearTimeout(checkTimer);
    checkTimer = setTimeout(async () => {
      const found = await get(root.dataset.checks + "?as=json").catch(() => null);
      if (!found?.found || JSON.stringify(found.found) === JSON.stringify(checks)) return;
      checks = found.found;
      if (state.filter === "found" && !state.editing) refresh();
      else drawFilters();
    }, 400);
  }

  async function reload() {
    const data = await get(root.dataset.rows).catch(() => null);
    if (!data) return;
    begin(data);
    if (!tree.nodes.has(state.selected)) state.selected = tree.home || tree.tops[0];
    refresh();
  }

  // --- editing in place ---

  function rename() {
    state.col = null;
    if (node()?.bad) return openField(node(), null, state.selected);
    cell.edit(node(), "title");
  }

  // add opens the field of a new entry, after the chosen one or below it. The field is there at once; the server
  // catches up behind it.
  function add(below) {
    const n = node();
    let parent = "",
      after = tree.tops.at(-1) || "";
    if (n && n.id !== tree.home) {
      if (below && !holds(n)) return say("Entries can stand below pages and groups only.");
      parent = below ? n.id : n.p || "";
      after = below ? n.kids.at(-1) || "" : n.id;
    } else if (n?.id === tree.home && !below) after = "";
    openField({ id: key(), t: "", k: "page", kids: [], p: parent, fresh: true }, after, state.selected);
  }

  // openField shows the field of an entry that is not there yet, or was refused. back is what is chosen if it is left.
  function openField(n, after, back) {
    if (!tree.nodes.has(n.id)) {
      tree.nodes.set(n.id, n);
      const siblings = siblingsOf(n);
      siblings.splice(after ? siblings.indexOf(after) + 1 : 0, 0, n.id);
    }
    Object.assign(state, {
      col: null,
      sort: "",
      chosen: new Set(),
      editing: { id: n.id, col: "title", field: newField(n, back) },
      selected: n.id,
    });
    if (!showNew(n)) {
      reveal(n.id);
      layout();
    }
    draw();
    const top = indexOf(n.id) * ROW,
      seen = scroll.clientHeight - headHeight();
    if (top < scroll.scrollTop || top + 2 * ROW > scroll.scrollTop + seen) {
      scroll.scrollTop = Math.max(0, top - Math.floor(seen / 2));
      draw();
    }
    catchUp();
  }

  // showNew puts a new entry among the rows in sight, if these are the tree as it stands and hold the row it follows.
  function showNew(n) {
    const siblings = siblingsOf(n),
      before = siblings[siblings.indexOf(n.id) - 1];
    if (narrowed() || state.sort || !before) return false;
    const at = indexOf(before);
    if (at < 0) return false;
    const depth = state.visible[at].depth;
    let to = at + 1;
    while (to < state.visible.length && state.visible[to].depth > depth) to++;
    state.visible.splice(to, 0, { node: n, depth });
    return true;
  }

  // catchUp does what can wait until nobody types for a moment.
  let catchTimer;
  function catchUp() {
    clearTimeout(catchTimer);
    catchTimer = setTimeout(() => {
      drawFilters();
      remember();
      showFacts();
    }, 400);
  }

  // newField takes the title of an entry; Enter goes on to the next one, Alt and arrows place it.
  function newField(n, back) {
    const field = el("input", {
      class: "o-edit",
      maxlength: 300,
      "aria-label": "Title",
      placeholder: "Title of the new entry",
      value: n.t,
      autocomplete: "off",
    });
    let over = false;
    const end = (save, again) => {
      if (over) return;
      over = true;
      const value = field.value.trim();
      state.editing = null;
      if (!save || !value) return dropLocal(n, back);
      send(n, value);
      if (again) return openField({ id: key(), t: "", k: "page", kids: [], p: n.p, fresh: true }, n.id, n.id);
      layout();
      draw();
      catchUp();
    };
    const home = () => scroll.focus({ preventScroll: true });
    field.addEventListener("keydown", (e) => {
      e.stopPropagation();
      if (e.isComposing) return;
      const side = e.altKey && { ArrowRight: 1, ArrowLeft: -1 }[e.key];
      if (side || e.key === "Enter") e.preventDefault();
      if (side) place(n, side);
      if (e.key === "Enter") {
        end(true, field.value.trim() !== "");
        if (!state.editing) home();
      }
      if (e.key === "Escape") {
        end(false);
        home();
      }
    });
    field.addEventListener("blur", () =>
      setTimeout(() => {
        if (document.activeElement !== field && document.hasFocus() && field.isConnected) end(true);
      }, 80),
    );
    return field;
  }

  // place makes a new entry the last below the sibling before it, or puts it after its parent.
  function place(n, side) {
    const siblings = siblingsOf(n),
      at = siblings.indexOf(n.id);
    if (side > 0) {
      const above = tree.nodes.get(siblings[at - 1]);
      if (!above || !holds(above)) return say("There is no entry above it to move it under.");
      siblings.splice(at, 1);
      above.kids.push(n.id);
      n.p = above.id;
    } else {
      const parent = tree.nodes.get(n.p);
      if (!parent) return say("It is already at the top level.");
      siblings.splice(at, 1);
      n.p = parent.p || "";
      const to = siblingsOf(n);
      to.splice(to.indexOf(parent.id) + 1, 0, n.id);
    }
    reveal(n.id);
    layout();
    const depth = state.visible[indexOf(n.id)]?.depth || 1,
      row = state.editing.field.closest(".o-row");
    row.setAttribute("aria-level", depth);
    row.querySelector(".o-title").style.paddingLeft = 8 + (depth - 1) * 22 + "px";
    draw();
  }

  // send asks the server for an entry that stands in its place already.
  function send(n, value) {
    Object.assign(n, { t: value, fresh: false, bad: null, waiting: true, s: "on its way", f: undefined });
    const parent = tree.nodes.get(n.p);
    if (parent?.bad) return refuse({ new: n.id }, `“${parent.t}”, above it, was refused.`);
    const siblings = siblingsOf(n),
      before = siblings.slice(0, siblings.indexOf(n.id)).filter((id) => !tree.nodes.get(id)?.bad);
    act({ do: "add", new: n.id, parent: n.p || "", after: before.at(-1) || "", value });
  }

  // added takes up what the server made of entries that were sent; whoever types is left alone.
  function added(answer, forms) {
    const moved = apply(answer);
    for (const form of forms) {
      const n = tree.nodes.get(form.new);
      if (n) n.waiting = false;
    }
    if (moved) layout();
    draw();
    updateChecks();
    catchUp();
    if (answer.say && !state.editing) say(answer.say);
  }

  // refuse tells at its row why an entry is not there: Enter tries again, Delete gives it up.
  function refuse(form, words) {
    const n = tree.nodes.get(form.new);
    if (n) Object.assign(n, { waiting: false, bad: words, s: "" });
    draw();
    say(`“${n?.t || form.value}” was not added: ${words}`, true);
  }

  function dropLocal(n, back) {
    const siblings = siblingsOf(n);
    siblings.splice(siblings.indexOf(n.id), 1);
    tree.nodes.delete(n.id);
    state.selected = tree.nodes.has(back) ? back : siblings[0] || n.p || tree.home || tree.tops[0];
    refresh();
    catchUp();
  }

  // others takes up what somebody else did.
  function others(answer) {
    const gone = state.editing && (answer.drop || []).includes(state.editing.id);
    if (gone)
      say(`The entry you are editing was removed by somebody else. Your text: ${state.editing.field.value}`, true);
    apply(answer);
    if (gone) state.editing = null;
    updateChecks();
    layout();
    if (!tree.nodes.has(state.selected)) state.selected = state.visible[0]?.node.id || tree.home || tree.tops[0];
    draw();
    catchUp();
  }

  // --- keys, mouse ---

  function stepTree(dir) {
    if (state.sort) return say("The view is sorted; sort it by place in the tree to move entries.");
    return act({ do: "step", step: dir, ...plan.on() });
  }

  function run(what, button) {
    switch (what) {
      case "add":
        return add(false);
      case "paste":
        return askPaste();
      case "keys":
        return document.dispatchEvent(new CustomEvent("show-keys", { detail: keys }));
      case "choose-none":
        return select(state.selected, true);
      case "remove":
        if (node()?.bad) return dropLocal(node());
        break;
      case "in":
      case "out":
      case "up":
      case "down":
        return stepTree(what);
      case "choose-below":
        return chooseBelow();
    }
    plan.run(what, button);
  }
  document
    .querySelectorAll(".bar-acts [data-do], #outline-empty [data-do]")
    .forEach((b) => b.addEventListener("click", () => run(b.dataset.do)));

  // A pasted list goes below the chosen entry, or beside one that holds none.
  const holds = (n) => ["page", "carried", "group"].includes(n.k);
  function pasteTarget() {
    const n = node();
    if (!n || n.id === tree.home) return "";
    return holds(n) ? n.id : n.p || "";
  }
  let refused = ""; // a list that could not be pasted waits in the dialog
  async function paste(text) {
    if (!text.trim()) return;
    refused = (await act({ do: "paste", parent: pasteTarget(), value: text })) ? "" : text;
  }
  function askPaste() {
    const box = document.getElementById("paste"),
      field = document.getElementById("paste-text"),
      parent = tree.nodes.get(pasteTarget());
    document.getElementById("paste-where").textContent = parent
      ? `They go below “${parent.t}”.`
      : "They go to the top.";
    field.value = refused;
    box.onclose = () => {
      if (box.returnValue === "yes") paste(field.value);
      box.returnValue = "";
      scroll.focus({ preventScroll: true });
    };
    box.showModal();
    field.focus();
  }

  function step(delta) {
    const i = indexOf(state.selected);
    const to = state.visible[Math.max(0, Math.min(state.visible.length - 1, i < 0 ? 0 : i + delta))];
    if (to) select(to.node.id);
  }

  function chooseStep(delta) {
    const to = state.visible[indexOf(state.selected) + delta];
    if (to) chooseTo(to.node.id);
  }

  function toggle(id) {
    state.flipped.has(id) ? state.flipped.delete(id) : state.flipped.add(id);
    refresh();
    chooseSeen();
  }

  function onKey(e) {
    if (e.target !== scroll) return;
    const n = node(),
      at = indexOf(state.selected),
      depth = state.visible[at]?.depth || 1;
    const done = () => e.preventDefault();
    if (plan.pending() && (e.key === "Enter" || e.key === "Escape")) {
      done();
      return e.key === "Enter" ? confirmPending() : leavePending();
    }
    if ((e.ctrlKey || e.metaKey) && e.key.toLowerCase() === "z") {
      done();
      return run(e.shiftKey ? "redo" : "undo");
    }
    if ((e.ctrlKey || e.metaKey) && e.key.toLowerCase() === "y") {
      done();
      return run("redo");
    }
    if ((e.ctrlKey || e.metaKey) && e.key.toLowerCase() === "a") {
      done();
      return chooseAll();
    }
    if (cell.onKey(e)) return done();
    if (e.ctrlKey || e.metaKey) return;
    if (e.shiftKey && (e.key === "ArrowDown" || e.key === "ArrowUp")) {
      done();
      return chooseStep(e.key === "ArrowDown" ? 1 : -1);
    }
    if (e.altKey) {
      const dir = { ArrowUp: "up", ArrowDown: "down", ArrowRight: "in", ArrowLeft: "out" }[e.key];
      if (dir && n) {
        done();
        stepTree(dir);
      }
      return;
    }
    if (many() && ["n", "N", "Enter", "F2", "c", "s", "S", "o", "b"].includes(e.key)) {
      done();
      return say("This works on one entry; press Esc to go back to one.");
    }
    switch (e.key) {
      case "ArrowDown":
        step(1);
        break;
      case "ArrowUp":
        step(-1);
        break;
      case "PageDown":
        step(Math.floor(scroll.clientHeight / ROW) - 1);
        break;
      case "PageUp":
        step(1 - Math.floor(scroll.clientHeight / ROW));
        break;
      case "Home":
        step(-1e9);
        break;
      case "End":
        step(1e9);
        break;
      case "ArrowRight":
        if (n?.kids.length && !narrowed() && !state.sort && !isOpen(n, depth)) toggle(n.id);
        else if (n && state.cols.length) cell.enter(state.cols[0]);
        break;
      case "ArrowLeft":
        if (n && !narrowed() && !state.sort && isOpen(n, depth)) toggle(n.id);
        else if (n?.p) select(n.p);
        break;
      case "Enter":
      case "F2":
        rename();
        break;
      case "n":
        add(false);
        break;
      case "N":
        add(true);
        break;
      case "Escape":
        if (many()) select(state.selected, true);
        break;
      case "Delete":
        run("remove");
        break;
      case "m":
        run("move");
        break;
      case "t":
        find.focus();
        find.select();
        break;
      case "b":
        chooseBelow();
        break;
      case "c":
        run("copy");
        break;
      case "s":
        run("sort");
        break;
      case "S":
        run("sort-all");
        break;
      case "o":
        if (n && (n.k === "page" || n.k === "carried"))
          location.href = root.dataset.pages + "/" + encodeURIComponent(n.id);
        break;
      case "f":
        plan.goToFacts();
        break;
      case "?":
        run("keys");
        break;
      default:
        if (!/^[1-9]$/.test(e.key)) return;
        openTo(Number(e.key));
    }
    done();
  }

  function onClick(e) {
    const row = e.target.closest(".o-row");
    if (!row || e.target.closest("input, select")) return;
    if (e.detail > 1 && row.dataset.id === state.selected) return; // the row stays for the double click that follows
    if (e.target.closest("[data-twist]") && tree.nodes.get(row.dataset.id).kids.length) return toggle(row.dataset.id);
    state.col = e.target.closest(".can")?.dataset.col || null;
    state.byClick = true; // letters and Delete are for the row then
    if (e.shiftKey) return chooseTo(row.dataset.id);
    if (e.ctrlKey || e.metaKey) return chooseAlso(row.dataset.id);
    if (plan.pending() && plan.pending().id !== row.dataset.id) dropPending();
    select(row.dataset.id, true);
  }

  // --- begin ---

  (async () => {
    try {
      begin(await get(root.dataset.rows));
    } catch (problem) {
      root.replaceChildren(
        el("p", { class: "problem" }, problem.message),
        el("button", { class: "btn", onclick: () => location.reload() }, "Try again"),
      );
      return;
    }
    if (!tree.nodes.has(state.selected)) state.selected = tree.tops[0] || tree.home;
    for (const form of plan.takeUp())
      putLocal(
        { id: form.new, t: form.value, k: "page", kids: [], p: form.parent, waiting: true, s: "on its way" },
        form.after,
      );
    build();
    if (state.selected && !narrowed() && !state.sort) reveal(state.selected);
    refresh();
    if (state.selected) {
      select(state.selected, [document.body, null].includes(document.activeElement)); // unless somebody types elsewhere by now
      showFacts();
    }
    plan.watch();
  })();
}
