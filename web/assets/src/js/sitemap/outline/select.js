// Selecting one entry or several.
import { ROW, draw, headHeight } from "./draw.js";
import { indexOf, isOpen, narrowed, node } from "./rows.js";
import { refresh, remember } from "./filters.js";
import { say } from "../../shared/say.js";

// listed is what is chosen as an indented list, as it can be pasted.
export function listed(o) {
  const taken = new Set(),
    lines = [];
  const walk = (id, depth) => {
    const n = o.tree.nodes.get(id);
    if (taken.has(id)) return;
    taken.add(id);
    lines.push("\t".repeat(depth) + n.t);
    for (const kid of n.kids) walk(kid, depth + 1);
  };
  for (const id of o.plan.many() ? inSight(o) : [o.state.selected]) walk(id, 0);
  return lines.join("\n");
}

export const inSight = (o) =>
  many(o) ? o.state.visible.filter((v) => o.state.chosen.has(v.node.id)).map((v) => v.node.id) : [o.state.selected];

// Choosing several: what is chosen besides holds state.selected, too.
export const many = (o) => o.state.chosen.size > 1;

export function chooseTo(o, id) {
  // from the anchor to here, as in sight
  o.state.anchor ||= o.state.selected;
  const from = indexOf(o, o.state.anchor),
    to = indexOf(o, id);
  if (from < 0 || to < 0) return;
  o.state.chosen = new Set(
    o.state.visible
      .slice(Math.min(from, to), Math.max(from, to) + 1)
      .map((v) => v.node.id)
      .filter((i) => i !== o.tree.home),
  );
  moveOn(o, id);
}

export function chooseAlso(o, id) {
  if (id === o.tree.home) return;
  if (!o.state.chosen.size && o.state.selected !== o.tree.home) o.state.chosen.add(o.state.selected);
  o.state.chosen.has(id) && o.state.chosen.size > 1 ? o.state.chosen.delete(id) : o.state.chosen.add(id);
  o.state.anchor = id;
  moveOn(o, o.state.chosen.has(id) ? id : [...o.state.chosen].at(-1));
}

export function chooseAll(o) {
  o.state.chosen = new Set(o.state.visible.filter((v) => !v.faint && v.node.id !== o.tree.home).map((v) => v.node.id));
  if (o.state.chosen.size) moveOn(o, o.state.chosen.has(o.state.selected) ? o.state.selected : [...o.state.chosen][0]);
}

export function chooseBelow(o) {
  const n = node(o);
  if (!n?.kids.length) return say("Nothing is below this entry.");
  const branch = [],
    walk = (m, depth) => {
      branch.push(m.id);
      if (m.kids.length && !narrowed(o) && !isOpen(o, m, depth))
        o.state.flipped.has(m.id) ? o.state.flipped.delete(m.id) : o.state.flipped.add(m.id);
      for (const id of m.kids) walk(o.tree.nodes.get(id), depth + 1);
    };
  if (n.id === o.tree.home) return say("Ctrl A selects all visible entries.");
  walk(n, o.state.visible[indexOf(o, n.id)]?.depth || 1);
  refresh(o);
  const seen = new Set(o.state.visible.filter((v) => !v.faint).map((v) => v.node.id));
  o.state.chosen = new Set(branch.filter((id) => seen.has(id)));
  moveOn(o, n.id);
}

// What goes out of sight is not chosen any more: nobody removes what they do not see.
export function chooseSeen(o) {
  if (!many(o)) return;
  const seen = new Set(o.state.visible.filter((v) => !v.faint).map((v) => v.node.id));
  const left = [...o.state.chosen].filter((id) => seen.has(id));
  o.plan.dropPending();
  if (left.length < 2) return select(o, left[0] || o.state.selected);
  o.state.chosen = new Set(left);
  if (!o.state.chosen.has(o.state.selected)) o.state.selected = left.at(-1);
  draw(o);
  o.plan.showFacts();
}

function moveOn(o, id) {
  o.plan.dropPending();
  const { chosen, anchor } = o.state;
  select(o, id, true);
  Object.assign(o.state, { chosen, anchor });
  draw(o);
  o.plan.showFacts();
}

export function select(o, id, focus) {
  if (!id) return;
  const changed = o.state.selected !== id || many(o);
  o.state.chosen = new Set();
  o.state.anchor = null;
  o.state.selected = id;
  const i = indexOf(o, id);
  if (i >= 0) {
    const top = i * ROW,
      seen = o.scroll.clientHeight - headHeight(o);
    if (top < o.scroll.scrollTop) o.scroll.scrollTop = top;
    else if (top + ROW > o.scroll.scrollTop + seen) o.scroll.scrollTop = top + ROW - seen;
  }
  draw(o);
  remember(o);
  if (focus) o.scroll.focus({ preventScroll: true });
  if (changed) o.plan.showFacts();
}

export function step(o, delta) {
  const i = indexOf(o, o.state.selected);
  const to = o.state.visible[Math.max(0, Math.min(o.state.visible.length - 1, i < 0 ? 0 : i + delta))];
  if (to) select(o, to.node.id);
}

export function chooseStep(o, delta) {
  const to = o.state.visible[indexOf(o, o.state.selected) + delta];
  if (to) chooseTo(o, to.node.id);
}

export function toggle(o, id) {
  o.state.flipped.has(id) ? o.state.flipped.delete(id) : o.state.flipped.add(id);
  refresh(o);
  chooseSeen(o);
}
