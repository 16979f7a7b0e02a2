// Dragging in the outline: near an edge puts the entry beside a row, in the middle below it.
import { afterOf, follow, mark, placeOn } from "../../shared/drag.js";
import { holds } from "./tree.js";

export function drag(o, e) {
  const row = e.target.closest(".o-row");
  if (!row || e.button !== 0 || e.target.closest("input, select, [data-twist]") || row.dataset.id === o.tree.home)
    return;
  const id = row.dataset.id,
    what = o.state.chosen.size > 1 && o.state.chosen.has(id) ? o.plan.on() : { id };
  const drawn = () => document.getElementById("row-" + id)?.classList; // rows are drawn anew while one scrolls
  follow(e, {
    move(ev) {
      drawn()?.add("dragged");
      scrollAlong(o.scroll, ev.clientY);
      mark(o.space);
      return under(o, ev, id);
    },
    drop: ({ n, how }) => o.plan.act({ do: "move", ...what, ...spotOf(o, n, how, what.ids ?? [id]) }),
    end() {
      mark(o.space);
      drawn()?.remove("dragged");
    },
  });
}

function scrollAlong(scroll, y) {
  const box = scroll.getBoundingClientRect();
  if (y < box.top + 50) scroll.scrollTop -= 12;
  if (y > box.bottom - 30) scroll.scrollTop += 12;
}

// under gives the entry under the pointer and where on it that is.
function under(o, ev, id) {
  const over = document.elementFromPoint(ev.clientX, ev.clientY)?.closest(".o-row");
  if (!over || over.dataset.id === id || o.state.sort) return null;
  const r = over.getBoundingClientRect(),
    n = o.tree.nodes.get(over.dataset.id);
  const how = n.id === o.tree.home ? "after" : placeOn((ev.clientY - r.top) / r.height, holds(n));
  mark(o.space, over, how);
  return { n, how };
}

function spotOf(o, n, how, moved) {
  if (how === "into") return { parent: n.id, last: true };
  if (n.id === o.tree.home) return { parent: "", after: "" };
  const kids = (n.p ? o.tree.nodes.get(n.p).kids : o.tree.tops).filter((k) => !moved.includes(k) || k === n.id);
  return { parent: n.p || "", after: afterOf(kids, n.id, how) };
}
