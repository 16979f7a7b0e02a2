// What keys and the mouse do on the map.
import { draw, wayTo } from "./boxes.js";
import { afterOf, follow, mark, placeOn } from "../../shared/drag.js";
import { el, say } from "../../shared/say.js";
import { fetchDrawing, openTo, run, toggle } from "./map.js";
import { fit, lookAt, show, zoomBy } from "./view.js";

export const keys = [
  ["→ ←", "down a level, back up"],
  ["↑ ↓", "to the neighbours (swapped when the map runs downwards)"],
  ["Enter", "open or close"],
  ["m", "move to …"],
  ["Alt ↑", "move up, Alt ↓ down"],
  ["Alt →", "indent, Alt ← outdent"],
  ["Delete", "remove"],
  ["o", "open the page"],
  ["f", "go to the facts on the right"],
  ["t", "show the path to …"],
  ["+ -", "zoom in, zoom out"],
  ["0", "fit everything"],
  ["Shift ↑", "pan, with any arrow"],
  ["1 … 6", "open to that level"],
  ["Ctrl Z", "undo, Ctrl Shift Z redo"],
];

function select(v, id, focus = true) {
  if (!v.byId.has(id)) return;
  if (v.plan.pending() && v.plan.pending().id !== id) v.plan.dropPending();
  const changed = id !== v.state.at;
  v.state.at = id;
  show(v, v.byId.get(id));
  draw(v, true);
  if (focus) v.view.focus({ preventScroll: true });
  if (changed) v.plan.showFacts();
}

export async function lightTo(v, id) {
  v.state.at = id;
  if (!(await fetchDrawing(v, false))) return;
  if (v.scale < 0.6) lookAt(v, v.x, v.y, 1);
  show(v, v.byId.get(id));
  draw(v, true);
  v.plan.showFacts();
  v.view.focus({ preventScroll: true });
  const way = wayTo(v, id);
  say(way.map((n) => n.t).join(" › "));
}

export const nodeOf = (v, target) => v.byId.get(target.closest?.("[data-id]")?.dataset.id);

// Grabbing a box moves the entry: onto another box it goes below that, onto its edge beside it. Grabbing the paper looks
// elsewhere: see view.js.
export function onGrab(v, e) {
  if (e.button !== 0) return;
  const n = nodeOf(v, e.target);
  v.view.focus({ preventScroll: true });
  if (!n) return;
  e.preventDefault();
  if (e.target.closest("[data-knob]")) return toggle(v, n);
  v.grabbing = true;
  follow(e, carrying(v, n), 5);
}

function carrying(v, n) {
  let ghost = null;
  return {
    move(ev) {
      if (n.v === 0) return null; // home stays
      ghost ||= v.root.appendChild(el("div", { class: "m-ghost" }, n.t));
      const r = v.root.getBoundingClientRect();
      ghost.style.left = ev.clientX - r.left + 10 + "px";
      ghost.style.top = ev.clientY - r.top + 8 + "px";
      mark(v.boxes);
      return under(v, ev, n);
    },
    end() {
      v.grabbing = false;
      ghost?.remove();
      mark(v.boxes);
    },
    click: () => select(v, n.id),
    drop({ over, how }) {
      select(v, n.id);
      v.plan.act({ do: "move", id: n.id, ...spotOf(v, n, over, how) });
    },
  };
}

// under gives the entry under the pointer and where on its box that is.
function under(v, ev, n) {
  const box = document.elementFromPoint(ev.clientX, ev.clientY)?.closest(".m-node"),
    over = box && v.byId.get(box.dataset.id);
  if (!over || over === n || wayTo(v, over.id).includes(n)) return null;
  const b = box.querySelector("rect").getBoundingClientRect();
  const along = v.state.direction === "down" ? (ev.clientX - b.left) / b.width : (ev.clientY - b.top) / b.height;
  const holds = !over.k || over.k === "carried" || over.k === "group";
  const how = over.v === 0 || over.p < 0 ? "into" : placeOn(along, holds, 0.25);
  mark(v.boxes, box, how);
  return { over, how };
}

function spotOf(v, n, over, how) {
  const home = (m) => (m && m.v === 0 ? "" : m?.id || "");
  if (how === "into") return { parent: home(over), last: true };
  const above = v.d.nodes[over.p],
    line = above.kids.map((k) => k.id).filter((id) => id !== n.id);
  return { parent: home(above), after: afterOf(line, over.id, how) };
}

function neighbour(v, by) {
  const n = v.byId.get(v.state.at),
    line = v.d.nodes.filter((m) => m.v === n.v);
  return line[line.indexOf(n) + by];
}

// What a key does on a map that runs across; on one that runs down, arrows are turned.
const byKey = {
  ArrowRight(v, n) {
    if (n.n) toggle(v, n);
    else if (n.kids.length) select(v, n.kids[0].id);
  },
  ArrowLeft: (v, n) => n.p >= 0 && select(v, v.d.nodes[n.p].id),
  ArrowDown: (v) => selectBeside(v, 1),
  ArrowUp: (v) => selectBeside(v, -1),
  Home: (v) => select(v, v.d.nodes[0].id),
  Enter: unfold,
  " ": unfold,
  "+": (v) => zoomBy(v, 1.25),
  "=": (v) => zoomBy(v, 1.25),
  "-": (v) => zoomBy(v, 0.8),
  0: fit,
  m: (v) => run(v, "move"),
  t(v) {
    v.find.focus();
    v.find.select();
  },
  Delete: (v) => run(v, "remove"),
  o(v, n) {
    if (!n.k || n.k === "carried") location.href = v.root.dataset.pages + "/" + encodeURIComponent(n.id);
  },
  f: (v) => v.plan.goToFacts(),
  "?": (v) => run(v, "keys"),
};
const turned = { ArrowDown: "ArrowRight", ArrowUp: "ArrowLeft", ArrowRight: "ArrowDown", ArrowLeft: "ArrowUp" };
const pans = { ArrowUp: [0, 1], ArrowDown: [0, -1], ArrowLeft: [1, 0], ArrowRight: [-1, 0] };

function unfold(v, n) {
  if (n.kids.length || n.n) toggle(v, n);
}

function selectBeside(v, by) {
  const n = neighbour(v, by);
  if (n) select(v, n.id);
}

export function onKey(v, e) {
  const n = v.byId.get(v.state.at);
  if (n && e.target === v.view && takesKey(v, n, e)) e.preventDefault();
}

function takesKey(v, n, e) {
  if (v.plan.pending() && (e.key === "Enter" || e.key === "Escape")) {
    e.key === "Enter" ? v.plan.confirmPending() : v.plan.leavePending();
    return true;
  }
  if (e.ctrlKey || e.metaKey) {
    if (e.key.toLowerCase() !== "z") return false;
    run(v, e.shiftKey ? "redo" : "undo");
    return true;
  }
  if (e.shiftKey && pans[e.key]) {
    lookAt(v, v.x + pans[e.key][0] * 120, v.y + pans[e.key][1] * 120);
    return true;
  }
  if (e.altKey) {
    const step = { ArrowUp: "up", ArrowDown: "down", ArrowRight: "in", ArrowLeft: "out" }[e.key];
    if (step) v.plan.act({ do: "step", step, id: n.id });
    return !!step;
  }
  const key = (v.state.direction === "down" && turned[e.key]) || e.key;
  if (/^[1-9]$/.test(key)) openTo(v, Number(key));
  else if (Object.hasOwn(byKey, key)) byKey[key](v, n);
  else return false;
  return true;
}
