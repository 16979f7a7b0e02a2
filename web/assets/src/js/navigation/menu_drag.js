// Dragging in a menu: near an edge puts the item beside another, in the middle below it.
import { afterOf, follow, mark, placeOn } from "../shared/drag.js";
import { act, choose, lines, tree } from "./menus.js";

export function drag(m, e) {
  const l = e.target.closest(".m-line");
  if (!l || e.button !== 0 || e.target.closest("[data-twist]")) return;
  follow(e, {
    begin() {
      choose(m, l, true);
      l.classList.add("dragged");
    },
    move(ev) {
      mark(tree());
      const over = document.elementFromPoint(ev.clientX, ev.clientY)?.closest(".m-line");
      if (!over || isWithin(over, l)) return null;
      const r = over.getBoundingClientRect(),
        how = placeOn((ev.clientY - r.top) / r.height, over.dataset.holds !== undefined);
      mark(tree(), over, how);
      return { over, how };
    },
    drop({ over, how }) {
      if (how === "into") return act(m, { do: "move", parent: over.dataset.key, last: true });
      const parent = over.dataset.parent,
        beside = lines()
          .filter((o) => o.dataset.parent === parent && o !== l)
          .map((o) => o.dataset.key);
      act(m, { do: "move", parent, after: afterOf(beside, over.dataset.key, how) });
    },
    end() {
      if (tree()) mark(tree());
      l.classList.remove("dragged");
    },
  });
}

// isWithin tells whether a line is another or stands below it.
function isWithin(line, top) {
  for (let p = line; p; p = lines().find((q) => q.dataset.key === p.dataset.parent)) if (p === top) return true;
  return false;
}
