// Which rows of the tree show, by what is open, filtered, looked for and sorted.
import { fact, sorted } from "./columns.js";
import { kindWords } from "../kinds.js";
import { fits as fitsOnly } from "./looks.js";

export const filters = [
  ["all", "All", () => true],
  ["changed", "Changed", (n) => n.m?.length > 0],
  ["no-owner", "No owner", (n) => !!n.fits?.includes("no-owner")],
  ["bare", "Carried, unwritten", (n) => n.b],
  ["found", "Findings", (n, o) => o.checks[n.id] > 0], // how much there is to look at, by entry
];

const folded = (s) => s.normalize("NFD").replace(/\p{M}/gu, "").toLowerCase();

export const wordsOf = (s) => folded(s).split(/\s+/).filter(Boolean);

export const isOpen = (o, n, depth) => n.kids.length > 0 && depth < o.state.level !== o.state.flipped.has(n.id);

// What is shown: all, or what the filter and every word looked for fit.
export const narrowed = (o) => o.state.filter !== "all" || o.state.only !== "" || o.state.words.length > 0;

function fitting(o) {
  const filter = filters.find((f) => f[0] === o.state.filter)?.[2] || filters[0][2],
    only = fitsOnly(o.state.only);
  return (n) => filter(n, o) && only(n) && found(o, n);
}

function found(o, n) {
  if (!o.state.words.length) return true;
  n.f ??= folded(
    [n.t, fact(n, "short"), n.a, fact(n, "owner"), fact(n, "topics"), kindWords[n.k]].filter(Boolean).join("\n"),
  );
  return o.state.words.every((w) => n.f.includes(w));
}

export function layout(o) {
  const out = [];
  const fits = fitting(o);
  if (o.state.sort) {
    // a plain list
    for (const node of sorted(
      [...o.tree.nodes.values()].filter((n) => !n.fresh && fits(n)),
      o.state.sort,
      o.names,
    ))
      out.push({ node, depth: 1 });
  } else if (!narrowed(o)) {
    if (o.tree.home) out.push({ node: o.tree.nodes.get(o.tree.home), depth: 1 });
    const walk = (ids, depth) => {
      for (const id of ids) {
        const node = o.tree.nodes.get(id);
        if (!node) continue;
        out.push({ node, depth });
        if (isOpen(o, node, depth)) walk(node.kids, depth + 1);
      }
    };
    walk(o.tree.tops, 1);
  } else {
    // what fits, with its ancestors in sight
    const walk = (ids, depth) => {
      let any = false;
      for (const id of ids) {
        const node = o.tree.nodes.get(id);
        const at = out.length;
        out.push({ node, depth, faint: !fits(node) });
        if (!walk(node.kids, depth + 1) && !fits(node)) out.splice(at);
        else any = true;
      }
      return any;
    };
    if (o.tree.home && fits(o.tree.nodes.get(o.tree.home))) out.push({ node: o.tree.nodes.get(o.tree.home), depth: 1 });
    walk(o.tree.tops, 1);
  }
  o.state.visible = out;
}

export const indexOf = (o, id) => o.state.visible.findIndex((v) => v.node.id === id);

export const node = (o) => o.tree.nodes.get(o.state.selected);

export function reveal(o, id) {
  let depth = 0;
  const chain = [];
  for (let n = o.tree.nodes.get(o.tree.nodes.get(id)?.p); n; n = o.tree.nodes.get(n.p)) chain.unshift(n);
  for (const n of chain) {
    depth++;
    if (!isOpen(o, n, depth)) o.state.flipped.has(n.id) ? o.state.flipped.delete(n.id) : o.state.flipped.add(n.id);
  }
  if ((narrowed(o) || o.state.sort) && !o.state.visible.some((v) => v.node.id === id)) {
    o.state.filter = "all";
    o.state.only = o.state.sort = "";
    o.state.words = [];
    o.find.value = "";
  }
}

export const countFitting = (o) => o.state.visible.filter((v) => !v.faint).length;

// bestFound is what was meant: its title before beginnings, words and addresses, pages before references.
export function bestFound(o) {
  const q = folded(o.find.value.trim());
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
  return o.state.visible
    .filter((v) => !v.faint)
    .map((v) => v.node)
    .reduce((best, n) => (!best || rank(n) < rank(best) ? n : best), null);
}
