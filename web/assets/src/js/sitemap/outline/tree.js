// The tree of the outline in memory: taking up rows and answers of the server.
import { mergeOrder } from "../../shared/waiting.js";

function take(o, rows) {
  for (const r of rows) {
    const old = o.tree.nodes.get(r.id); // stays the same object, so that the rows in sight need not be laid out anew
    if (old) {
      for (const k of Object.keys(old)) if (k !== "kids" && !(k in r)) delete old[k];
      Object.assign(old, r);
    } else o.tree.nodes.set(r.id, Object.assign(r, { kids: [] }));
    if (r.h) o.tree.home = r.id;
  }
}

// What only this window knows: being typed, on its way, or refused.
const isLocal = (o, id) => {
  const n = o.tree.nodes.get(id);
  return !!n && !!(n.fresh || n.waiting || n.bad);
};

export const siblingsOf = (o, n) => (n.p ? o.tree.nodes.get(n.p)?.kids || [] : o.tree.tops);

const localOf = (o) => [...o.tree.nodes.values()].filter((n) => isLocal(o, n.id));

// placesOf gives where an entry stands, then where those above it do: below which, and behind which siblings.
function placesOf(o, n) {
  const places = [];
  for (let at = n; at; at = o.tree.nodes.get(at.p)) {
    const siblings = siblingsOf(o, at);
    places.push({ p: at.p || "", prior: siblings.slice(0, Math.max(siblings.indexOf(at.id), 0)) });
  }
  return places;
}

export function load(o, rows) {
  const local = localOf(o).map((n) => ({ n, places: placesOf(o, n) }));
  o.tree.nodes.clear();
  o.tree.tops = [];
  o.tree.home = null;
  take(o, rows);
  for (const r of rows) {
    if (r.h) continue;
    const parent = r.p && o.tree.nodes.get(r.p);
    (parent ? parent.kids : o.tree.tops).push(r.id);
  }
  for (const { n, places } of local) putBack(o, n, places);
}

// putLocal puts an entry that only this window knows behind a sibling.
export function putLocal(o, n, before) {
  putBack(o, n, [
    { p: n.p || "", prior: [before] },
    { p: "", prior: o.tree.tops },
  ]);
}

// putBack puts it at the first of some places that is still there, so that it is in sight whatever became of what was above it.
function putBack(o, n, places) {
  if (o.tree.nodes.has(n.id)) return; // the server knows it by now
  const { p, prior } = places.find((at) => !at.p || o.tree.nodes.has(at.p)) || { p: "", prior: [] };
  o.tree.nodes.set(n.id, n);
  n.p = p;
  n.kids = n.kids.filter((id) => isLocal(o, id));
  const siblings = siblingsOf(o, n),
    before = prior.findLast((id) => siblings.includes(id));
  siblings.splice(siblings.indexOf(before) + 1, 0, n.id);
}

// apply takes up an answer, and tells whether anything stands elsewhere then.
export function apply(o, answer) {
  let moved = (answer.drop || []).length > 0 || (answer.put || []).some((r) => !o.tree.nodes.has(r.id));
  const drop = new Set(answer.drop || []),
    lost = drop.size ? localOf(o).filter((n) => drop.has(n.p)) : [],
    places = lost.map((n) => placesOf(o, n));
  for (const id of [...drop, ...lost.map((n) => n.id)]) o.tree.nodes.delete(id);
  take(o, answer.put || []);
  for (const [parent, ids] of Object.entries(answer.order || {})) {
    const kept = mergeOrder(
      (parent ? o.tree.nodes.get(parent)?.kids : o.tree.tops) || [],
      ids.filter((id) => o.tree.nodes.has(id)),
      (id) => isLocal(o, id),
    );
    const had = parent ? o.tree.nodes.get(parent)?.kids : o.tree.tops;
    moved ||= had?.length !== kept.length || had.some((id, i) => id !== kept[i]);
    if (!parent) o.tree.tops = kept;
    else if (o.tree.nodes.has(parent)) o.tree.nodes.get(parent).kids = kept;
  }
  lost.forEach((n, i) => putBack(o, n, places[i]));
  o.tree.version = answer.version;
  if (answer.edition) o.tree.edition = answer.edition;
  return moved;
}

export function wayTo(o, n) {
  const way = [];
  for (let p = o.tree.nodes.get(n.p); p; p = o.tree.nodes.get(p.p)) way.unshift(p.t);
  return way.length ? "in " + way.join(" › ") : "";
}

export function countBelow(o, n) {
  let c = 0;
  for (const id of n.kids) c += 1 + countBelow(o, o.tree.nodes.get(id));
  return c;
}

// A pasted list goes below the chosen entry, or beside one that holds none.
export const holds = (n) => ["page", "carried", "group"].includes(n.k);
