// Dragging in the outline: near an edge puts the entry beside a row, in the
// middle below it.
export function grab(e, { scroll, space, tree, sorted, holds, on, act }) {
  const row = e.target.closest(".o-row");
  if (!row || e.button !== 0 || e.target.closest("input, select, [data-twist]") || row.dataset.id === tree.home) return;
  const id = row.dataset.id,
    startY = e.clientY;
  const what = on(id),
    stays = (k) => k !== id && !what.ids?.includes(k);
  let moving = false,
    target = null;
  const clear = () =>
    space
      .querySelectorAll(".into, .drop-after, .drop-before")
      .forEach((r) => r.classList.remove("into", "drop-after", "drop-before"));
  const move = (ev) => {
    if (!moving && Math.abs(ev.clientY - startY) < 6) return;
    moving = true;
    document.getElementById("row-" + id)?.classList.add("dragged");
    const box = scroll.getBoundingClientRect();
    if (ev.clientY < box.top + 50) scroll.scrollTop -= 12;
    if (ev.clientY > box.bottom - 30) scroll.scrollTop += 12;
    clear();
    const over = document.elementFromPoint(ev.clientX, ev.clientY)?.closest(".o-row");
    target = null;
    if (!over || over.dataset.id === id || sorted()) return;
    const r = over.getBoundingClientRect(),
      part = (ev.clientY - r.top) / r.height,
      n = tree.nodes.get(over.dataset.id);
    const how = n.id === tree.home ? "after" : part < 0.28 ? "before" : part > 0.72 || !holds(n) ? "after" : "into";
    over.classList.add(how === "into" ? "into" : "drop-" + how);
    target = { n, how };
  };
  const up = () => {
    document.removeEventListener("pointermove", move);
    document.removeEventListener("pointerup", up);
    document.removeEventListener("keydown", esc, true);
    clear();
    document.getElementById("row-" + id)?.classList.remove("dragged");
    if (!moving || !target) return;
    const { n, how } = target;
    if (how === "into") return act({ do: "move", ...what, parent: n.id, last: true });
    if (n.id === tree.home) return act({ do: "move", ...what, parent: "", after: "" });
    const kids = (n.p ? tree.nodes.get(n.p).kids : tree.tops).filter((k) => stays(k) || k === n.id);
    act({ do: "move", ...what, parent: n.p || "", after: how === "after" ? n.id : kids[kids.indexOf(n.id) - 1] || "" });
  };
  const esc = (ev) => {
    if (ev.key === "Escape") {
      target = null;
      up();
    }
  };
  document.addEventListener("pointermove", move);
  document.addEventListener("pointerup", up);
  document.addEventListener("keydown", esc, true);
}
