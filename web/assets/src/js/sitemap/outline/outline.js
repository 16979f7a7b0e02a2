// The outline: the whole tree in memory, only the rows in sight in the page. What a screen knows is one object, o, that
// every function here gets.
import { added, catchUp, indent, refuse } from "./adding.js";
import { apply, load, putLocal } from "./tree.js";
import { allRows } from "./pages.js";
import { bestFound, indexOf, layout, narrowed, node, reveal, wordsOf } from "./rows.js";
import { build, draw } from "./draw.js";
import { cells } from "./cells.js";
import { chooseSeen, inSight, select, step } from "./select.js";
import { columns, learn, usual } from "./columns.js";
import { drawFilters, refresh } from "./filters.js";
import { el, get, say } from "../../shared/say.js";
import { looks } from "./looks.js";
import { planner } from "../plan.js";
import { run } from "./keys.js";

export function startOutline(root) {
  const o = {};
  o.root = root;
  learn(JSON.parse(o.root.dataset.fields));
  o.url = new URL(location.href);
  o.tree = { nodes: new Map(), tops: [], version: 0, edition: 0, home: null };
  o.state = {
    selected: o.root.dataset.at || null,
    level: Number(o.url.searchParams.get("level") || 2),
    flipped: new Set((o.url.searchParams.get("flip") || "").split(".").filter(Boolean)),
    filter: o.url.searchParams.get("show") || "all",
    words: wordsOf(o.url.searchParams.get("find") || ""),
    visible: [],
    chosen: new Set(),
    anchor: null,
    editing: null,
    only: o.url.searchParams.get("only") || "",
    sort: "",
    cols: usual,
    col: null, // col: the cell that keys go to
  };
  lookAs(o, o.url.searchParams);
  o.names = { kinds: [], templates: [], owners: [], topics: [], readers: [] };
  wireFind(o);
  o.checks = {}; // how many findings there are, by entry
  o.here = new Map(); // who else is at an entry
  window.addEventListener("live-here", (e) => showHere(o, e.detail));
  o.drawn = new Map(); // rows that are in the page, by entry
  o.shows = new WeakMap(); // what a row shows, in one text
  o.plan = plannerOf(o);
  o.look = looksOf(o);
  o.cell = cellsOf(o);
  document
    .querySelectorAll(".bar-acts [data-do], #outline-empty [data-do]")
    .forEach((b) => b.addEventListener("click", () => run(o, b.dataset.do)));
  o.refused = ""; // a list that could not be pasted waits in the dialog
  first(o);
}

// showHere marks the rows at which others are.
function showHere(o, others) {
  o.here = Map.groupBy(
    others.filter((h) => h.entry),
    (h) => h.entry,
  );
  if (o.scroll && o.state.visible) draw(o);
}

// first shows the outline for the first time.
async function first(o) {
  try {
    begin(o, await allRows(get, o.root.dataset.rows, (data) => progress(o, data)));
  } catch (problem) {
    o.root.replaceChildren(
      el("p", { class: "problem" }, problem.message),
      el("button", { class: "btn", onclick: () => location.reload() }, "Try again"),
    );
    return;
  }
  if (!o.tree.nodes.has(o.state.selected)) o.state.selected = o.tree.tops[0] || o.tree.home;
  for (const form of o.plan.takeUp())
    putLocal(
      o,
      { id: form.new, t: form.value, k: "page", kids: [], p: form.parent, waiting: true, s: "on its way" },
      form.after,
    );
  build(o);
  if (o.state.selected && !narrowed(o) && !o.state.sort) reveal(o, o.state.selected);
  refresh(o);
  if (o.state.selected) {
    select(o, o.state.selected, [document.body, null].includes(document.activeElement)); // unless somebody types elsewhere by now
    o.plan.showFacts();
  }
  o.plan.watch();
}

// progress tells how much of a large outline has come, as long as nothing is shown.
function progress(o, { rows, total }) {
  const line = o.root.querySelector(".loading");
  if (line)
    line.textContent = `Loading ${rows.length.toLocaleString("en-GB")} of ${total.toLocaleString("en-GB")} entries …`;
}

// wireFind: finding narrows the tree as one types; Enter or an arrow goes into it.
function wireFind(o) {
  o.find = document.getElementById("o-find");
  o.find.value = o.url.searchParams.get("find") || "";
  o.find.addEventListener("input", () => {
    o.state.words = wordsOf(o.find.value);
    o.scroll.scrollTop = 0;
    refresh(o);
    chooseSeen(o);
  });
  o.find.addEventListener("keydown", (e) => {
    if (e.key === "Enter" || e.key === "ArrowDown") {
      e.preventDefault();
      const first = bestFound(o);
      if (first) select(o, first.id, true);
    }
    if (e.key === "Escape" && !o.find.value) o.scroll.focus({ preventScroll: true });
  });
}

const plannerOf = (o) =>
  planner(o.root, {
    selected: () => o.state.selected,
    chosen: () => [...o.state.chosen],
    version: () => o.tree.version,
    home: () => o.tree.home,
    settle: (answer, form) => settle(o, answer, form),
    reload: () => reload(o),
    draw: () => draw(o),
    run: (what, button) => run(o, what, button),
    focus: () => o.scroll.focus({ preventScroll: true }),
    edition: () => o.tree.edition,
    busy: () => !!o.state.editing,
    added: (answer, forms) => added(o, answer, forms),
    refused: (form, words) => refuse(o, form, words),
    others: (answer) => others(o, answer),
  });

const looksOf = (o) =>
  looks(o.root, {
    state: o.state,
    tree: o.tree,
    names: () => o.names,
    refresh: (fromTop) => refresh(o, fromTop),
    go: (query) => go(o, query),
  });

const cellsOf = (o) =>
  cells({
    state: o.state,
    tree: o.tree,
    node: () => node(o),
    select: (id) => select(o, id, true),
    rows: () => o.state.visible,
    names: () => o.names,
    act: (form) => o.plan.act(form),
    draw: () => draw(o),
    step: (delta) => step(o, delta),
    focus: () => o.scroll.focus({ preventScroll: true }),
    chosen: () => inSight(o),
  });

function lookAs(o, query) {
  const sort = query.get("sort") || "",
    cols = (query.get("cols") || "").split(".").filter((id) => columns[id] && id !== "title");
  o.state.sort = columns[sort.replace(/^-/, "")] ? sort : "";
  o.state.cols = query.has("cols") ? cols : usual;
}

// go looks at the tree as a kept view does.
function go(o, query) {
  const q = new URLSearchParams(query);
  lookAs(o, q);
  o.find.value = q.get("find") || "";
  Object.assign(o.state, {
    filter: q.get("show") || "all",
    only: q.get("only") || "",
    words: wordsOf(o.find.value),
    level: Number(q.get("level") || 2),
    flipped: new Set((q.get("flip") || "").split(".").filter(Boolean)),
    col: null,
  });
  refresh(o, true);
  o.scroll.focus({ preventScroll: true });
}

// settle shows what an act did, and keeps in sight what is chosen: by opening
// the way there, or, where a filter hides it now, by choosing a neighbour.
function settle(o, answer, form = {}) {
  const at = indexOf(o, o.state.selected),
    rows = o.state.visible;
  apply(o, answer);
  updateChecks(o);
  const wanted = [form.stay ? null : answer.select, o.state.selected].find((id) => o.tree.nodes.has(id));
  const made = ["add", "paste", "copy"].includes(form.do);
  if (wanted) {
    o.state.selected = wanted;
    if (made || (!narrowed(o) && !o.state.sort)) reveal(o, wanted);
  }
  layout(o);
  const seen = new Set(o.state.visible.map((v) => v.node.id));
  if (!seen.has(o.state.selected)) {
    const near = [...rows.slice(Math.max(at, 0)), ...rows.slice(0, Math.max(at, 0)).reverse()];
    o.state.selected =
      near.find((v) => seen.has(v.node.id) && !v.faint)?.node.id ||
      o.state.visible[0]?.node.id ||
      wanted ||
      o.tree.tops[0] ||
      o.tree.home;
  }
  refresh(o);
  const chosen = new Set([...o.state.chosen].filter((id) => seen.has(id)));
  const keep = chosen.has(o.state.selected) && chosen.size > 1;
  select(o, o.state.selected);
  if (keep) {
    o.state.chosen = chosen;
    draw(o);
  }
}

function begin(o, data) {
  ({ names: o.names } = data);
  o.look.setViews(data.views);
  load(o, data.rows);
  o.tree.version = data.version;
  o.tree.edition = data.edition;
  updateChecks(o);
}

// What the checks find is asked for a moment after an act: it can be elsewhere.
export function updateChecks(o) {
  clearTimeout(o.checkTimer);
  o.checkTimer = setTimeout(async () => {
    const found = await get(o.root.dataset.checks + "?as=json").catch(() => null);
    if (!found?.found || JSON.stringify(found.found) === JSON.stringify(o.checks)) return;
    o.checks = found.found;
    if (o.state.filter === "found" && !o.state.editing) refresh(o);
    else drawFilters(o);
  }, 400);
}

async function reload(o) {
  const data = await allRows(get, o.root.dataset.rows).catch(() => null);
  if (!data) return;
  begin(o, data);
  if (!o.tree.nodes.has(o.state.selected)) o.state.selected = o.tree.home || o.tree.tops[0];
  refresh(o);
}

// others takes up what somebody else did.
function others(o, answer) {
  const typed = o.tree.nodes.get(o.state.editing?.id),
    dropped = (id) => (answer.drop || []).includes(id),
    gone = o.state.editing && dropped(o.state.editing.id),
    above = dropped(typed?.p) && o.tree.nodes.get(typed.p).t;
  if (gone)
    say(`The entry you are editing was removed by somebody else. Your text: ${o.state.editing.field.value}`, true);
  apply(o, answer);
  if (gone) o.state.editing = null;
  updateChecks(o);
  layout(o);
  if (!o.tree.nodes.has(o.state.selected))
    o.state.selected = o.state.visible[0]?.node.id || o.tree.home || o.tree.tops[0];
  draw(o);
  if (above && !gone) {
    indent(o, typed);
    const below = o.tree.nodes.get(typed.p);
    say(
      `“${above}” was removed by somebody else. The new entry is ${below ? `below “${below.t}”` : "at the top level"} now.`,
      true,
    );
  }
  catchUp(o);
}
