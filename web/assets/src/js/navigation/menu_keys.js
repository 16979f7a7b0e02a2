// What keys, the mouse and the buttons of a menu do.
import { act, choose, line, lines, settled, toggle, writeLabel } from "./menus.js";
import { post, say } from "../shared/say.js";

const keys = [
  ["↑ ↓", "select the item above or below"],
  ["← →", "close or open; go up"],
  ["Alt ↑", "move up, Alt ↓ down"],
  ["Alt →", "indent, Alt ← outdent"],
  ["Enter", "edit its label"],
  ["Delete", "hide it from the menu"],
  ["i", "show it in the menu"],
  ["b", "reset it to computed"],
  ["a", "add a page"],
  ["Ctrl Z", "undo, Ctrl Shift Z redo"],
];

function stepBack(m, what) {
  m.queue = m.queue.then(async () => {
    try {
      await settled(m, (await post(m.root.dataset[what], {})).say, true);
    } catch (problem) {
      say(problem.message, problem.status !== 409);
    }
  });
}

export function run(m, what, item = m.state.item) {
  if (what === "undo" || what === "redo") return stepBack(m, what);
  if (what === "keys") return document.dispatchEvent(new CustomEvent("show-keys", { detail: keys }));
  if (!item) return;
  switch (what) {
    case "up":
    case "down":
    case "in":
      return act(m, { do: "step", step: what, item });
    case "out-step":
      return act(m, { do: "step", step: "out", item });
    case "leave-out":
      return act(m, { do: "out", item });
    case "let-in":
      return act(m, { do: "in", item });
    case "back":
      return act(m, { do: "back", item });
  }
}

// What a key does to the line that is selected.
const byKey = {
  ArrowDown: (m, l, all) => choose(m, all[Math.min(all.indexOf(l) + 1, all.length - 1)]),
  ArrowUp: (m, l, all) => choose(m, all[Math.max(all.indexOf(l) - 1, 0)]),
  Home: (m, l, all) => choose(m, all[0]),
  End: (m, l, all) => choose(m, all.at(-1)),
  ArrowRight(m, l, all) {
    if (l?.getAttribute("aria-expanded") === "false") toggle(m, l);
    else if (l?.hasAttribute("aria-expanded")) choose(m, all[all.indexOf(l) + 1]);
  },
  ArrowLeft(m, l, all) {
    if (l?.getAttribute("aria-expanded") === "true") toggle(m, l);
    else
      choose(
        m,
        all.find((o) => o.dataset.key === l?.dataset.parent),
      );
  },
  Enter: writeLabel,
  F2: writeLabel,
  Delete: (m) => run(m, "leave-out"),
  i: (m) => run(m, "let-in"),
  b: (m) => run(m, "back"),
  a: () => document.getElementById("add-find").focus(),
  "?": (m) => run(m, "keys"),
};
const steps = { ArrowUp: "up", ArrowDown: "down", ArrowRight: "in", ArrowLeft: "out-step" };

export function onKey(m, e) {
  if (takesKey(m, e)) e.preventDefault();
}

function takesKey(m, e) {
  if (e.ctrlKey || e.metaKey) {
    const back = { z: e.shiftKey ? "redo" : "undo", y: "redo" }[e.key.toLowerCase()];
    if (back) run(m, back);
    return !!back;
  }
  if (e.altKey) {
    if (steps[e.key]) run(m, steps[e.key]);
    return !!steps[e.key];
  }
  if (!Object.hasOwn(byKey, e.key)) return false;
  byKey[e.key](m, line(m), lines());
  return true;
}

export function drag(m, e) {
  const l = e.target.closest(".m-line");
  if (!l || e.button !== 0 || e.target.closest("[data-twist]")) return;
  const y = e.clientY;
  let moving = false,
    target = null;
  const clear = () => lines().forEach((o) => o.classList.remove("into", "drop-after", "drop-before"));
  const below = (o) => {
    for (let p = o; p; p = lines().find((q) => q.dataset.key === p.dataset.parent)) if (p === l) return true;
    return false;
  };
  const move = (ev) => {
    if (!moving && Math.abs(ev.clientY - y) < 6) return;
    if (!moving) choose(m, l, true);
    moving = true;
    l.classList.add("dragged");
    clear();
    target = null;
    const over = document.elementFromPoint(ev.clientX, ev.clientY)?.closest(".m-line");
    if (!over || below(over)) return;
    const r = over.getBoundingClientRect(),
      at = (ev.clientY - r.top) / r.height;
    const how = at < 0.28 ? "before" : at > 0.72 || over.dataset.holds === undefined ? "after" : "into";
    over.classList.add(how === "into" ? "into" : "drop-" + how);
    target = { over, how };
  };
  const up = () => {
    document.removeEventListener("pointermove", move);
    document.removeEventListener("pointerup", up);
    document.removeEventListener("keydown", esc, true);
    clear();
    l.classList.remove("dragged");
    if (!moving || !target) return;
    const { over, how } = target,
      parent = over.dataset.parent;
    if (how === "into") return act(m, { do: "move", parent: over.dataset.key, last: true });
    const beside = lines().filter((o) => o.dataset.parent === parent && o !== l);
    act(m, {
      do: "move",
      parent,
      after: how === "after" ? over.dataset.key : (beside[beside.indexOf(over) - 1]?.dataset.key ?? ""),
    });
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
