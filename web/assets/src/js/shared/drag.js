// Dragging with a pointer, as the outline, the map, menus and trails share it: it begins once the pointer has moved a
// little, follows it, and ends with a drop, with Esc, or as the click that it was.
//
// of.begin() once it moves; of.move(event) gives what it is over, if that takes it; of.drop(over); of.click() if it never
// moved; of.end(dropped) in any case, before drop and click.
export function follow(e, of, slack = 6) {
  let moving = false,
    over = null;
  const onMove = (ev) => {
    if (!moving && Math.hypot(ev.clientX - e.clientX, ev.clientY - e.clientY) < slack) return;
    if (!moving) of.begin?.();
    moving = true;
    over = of.move(ev) ?? null;
  };
  const stop = (dropped) => {
    removeEventListener("pointermove", onMove);
    removeEventListener("pointerup", onUp);
    removeEventListener("keydown", onEsc, true);
    of.end?.(dropped);
  };
  const onUp = () => {
    stop(moving && !!over);
    if (!moving) of.click?.();
    else if (over) of.drop?.(over);
  };
  const onEsc = (ev) => ev.key === "Escape" && stop(false);
  addEventListener("pointermove", onMove);
  addEventListener("pointerup", onUp);
  addEventListener("keydown", onEsc, true);
}

// placeOn tells where on a box something is dropped: near its beginning before it, near its end after it, between them
// into it, if it holds anything. at goes from 0 to 1 along the box.
export function placeOn(at, holds, edge = 0.28) {
  if (at < edge) return "before";
  return at > 1 - edge || !holds ? "after" : "into";
}

// afterOf gives the sibling behind which something stands that is dropped before or after one of them.
export const afterOf = (siblings, id, how) => (how === "after" ? id : (siblings[siblings.indexOf(id) - 1] ?? ""));

// movedTo gives items with one of them before or after another.
export function movedTo(items, i, { k, how }) {
  const rest = items.filter((_, n) => n !== i),
    at = (how === "after" ? k + 1 : k) - (i < (how === "after" ? k + 1 : k) ? 1 : 0);
  return [...rest.slice(0, at), items[i], ...rest.slice(at)];
}

const marks = { into: "into", before: "drop-before", after: "drop-after" };

// mark shows where something would be dropped; without a box nowhere in the list.
export function mark(list, box, how) {
  for (const other of list.querySelectorAll(".into, .drop-before, .drop-after"))
    other.classList.remove(...Object.values(marks));
  box?.classList.add(marks[how]);
}
