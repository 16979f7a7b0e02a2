// The map: the tree as a drawing that is moved, zoomed and rearranged. The server lays it out, this shows what is in sight.
// What the screen knows is one object, v, that every function here gets.
import { draw, index, svg, wayTo } from "./boxes.js";
import { el, get, say } from "../../shared/say.js";
import { fit, lookAt, onOverview, show, wireLook } from "./view.js";
import { keys, lightTo, nodeOf, onGrab, onKey } from "./hand.js";
import { setPlace } from "../../shared/place.js";
import { planner } from "../plan.js";
import { suggest } from "../../shared/suggest.js";

export function startMap(root) {
  const v = {
    root,
    url: new URL(location.href),
    state: {
      at: root.dataset.at || null,
      level: root.dataset.level,
      flip: new Set(root.dataset.flip.split(".").filter(Boolean)),
      direction: document.getElementById("m-direction").value,
      by: document.querySelector("#m-by [aria-pressed=true]").dataset.by,
    },
    d: null, // the drawing, as the server laid it out
    byId: new Map(),
    grabbing: false,
    drawn: null, // what part of the drawing is in the page
    tiles: new Map(),
  };
  v.scale = Number(query(v, "scale")) || 0;
  v.x = Number(query(v, "x")) || 0; // px on the screen of the drawing's corner
  v.y = Number(query(v, "y")) || 0;
  v.plan = plannerOf(v);
  wireBar(v);
  fetchDrawing(v, false).then((ok) => {
    if (!ok)
      return v.root.replaceChildren(
        el("p", { class: "problem" }, "The map could not be drawn."),
        el("button", { class: "btn", onclick: () => location.reload() }, "Try again"),
      );
    build(v);
    begin(v);
    v.view.focus({ preventScroll: true });
    v.plan.showFacts();
    v.plan.watch();
  });
}

const plannerOf = (v) =>
  planner(v.root, {
    selected: () => v.state.at,
    chosen: () => [],
    version: () => v.d.version,
    home: () => (v.d.nodes[0]?.v === 0 ? v.d.nodes[0].id : null),
    settle: async (answer) => {
      if (answer.select) v.state.at = answer.select;
      await fetchDrawing(v, true);
    },
    reload: () => fetchDrawing(v, true),
    others: () => fetchDrawing(v, true),
    edition: () => v.d.edition,
    holds: () => v.grabbing,
    draw: () => draw(v, true),
    run: (what, button) => run(v, what, button),
    focus: () => v.view.focus({ preventScroll: true }),
  });

// wireBar wires what stands above the map.
function wireBar(v) {
  document
    .querySelectorAll(".bar-acts [data-do]")
    .forEach((b) => b.addEventListener("click", () => run(v, b.dataset.do)));
  document.getElementById("m-direction").addEventListener("change", async (e) => {
    v.state.direction = e.target.value;
    if (await fetchDrawing(v, false)) begin(v);
  });
  document.getElementById("m-level").addEventListener("change", (e) => openTo(v, Number(e.target.value)));
  for (const b of document.querySelectorAll("#m-by [data-by]"))
    b.addEventListener("click", () => {
      v.state.by = b.dataset.by;
      document.querySelectorAll("#m-by [data-by]").forEach((o) => o.setAttribute("aria-pressed", String(o === b)));
      fetchDrawing(v, true);
    });
  v.find = document.getElementById("m-find");
  suggest(
    v.find,
    v.root.dataset.find,
    () => ({ all: "1" }),
    (item) => {
      v.find.value = item.title;
      lightTo(v, item.id);
    },
  );
  v.find.addEventListener("keydown", (e) => {
    if (e.key === "Escape") v.view.focus({ preventScroll: true });
  });
}

const query = (v, name) => v.url.searchParams.get(name) || "";

function params(v) {
  return new URLSearchParams({
    direction: v.state.direction,
    by: v.state.by,
    level: v.state.level || "",
    flip: [...v.state.flip].slice(0, 150).join("."),
    at: v.state.at || "",
  });
}

// While one looks at the drawing it stands still: what is chosen keeps its place on the screen.
export async function fetchDrawing(v, keep) {
  const before = keep && v.byId.get(v.state.at),
    held = before && [v.x + before.b[0] * v.scale, v.y + before.b[1] * v.scale];
  try {
    v.d = await get(v.root.dataset.drawing + "?" + params(v));
  } catch (problem) {
    say(problem.message, true);
    return false;
  }
  v.byId = new Map(v.d.nodes.map((n) => [n.id, n]));
  v.d.nodes.forEach((n, i) => {
    n.i = i;
    n.kids = [];
    if (n.p >= 0) v.d.nodes[n.p].kids.push(n);
  });
  v.state.level = String(v.d.level);
  if (!v.byId.has(v.state.at)) v.state.at = v.d.nodes[0]?.id || null;
  const now = v.byId.get(v.state.at);
  if (held && now) {
    lookAt(v, held[0] - now.b[0] * v.scale, held[1] - now.b[1] * v.scale);
  }
  legend(v);
  levels(v);
  index(v);
  if (v.view) draw(v, true);
  return true;
}

function build(v) {
  v.edges = svg("path", { class: "m-edges" });
  v.lit = svg("path", { class: "m-lit" });
  v.boxes = svg("g");
  v.sheet = svg("svg", { class: "m-sheet", width: 1, height: 1, role: "none" });
  v.sheet.append(v.edges, v.lit, v.boxes);
  v.overview = el("canvas", { class: "m-over", width: "150", height: "104", "aria-hidden": "true" });
  v.view = el("div", { class: "m-view", tabindex: "0", role: "tree", "aria-label": "Sitemap, drawn" }, v.sheet);
  v.root.replaceChildren(v.view, v.overview);
  v.view.addEventListener("keydown", (e) => onKey(v, e));
  v.view.addEventListener("pointerdown", (e) => onGrab(v, e));
  wireLook(v, (target) => !nodeOf(v, target));
  v.view.addEventListener("dblclick", (e) => {
    const n = nodeOf(v, e.target);
    if (n && (n.kids.length || n.n)) toggle(v, n);
  });
  v.overview.addEventListener("pointerdown", (e) => onOverview(v, e));
  new ResizeObserver(() => draw(v)).observe(v.view);
}

function legend(v) {
  document.getElementById("m-legend").replaceChildren(
    ...v.d.legend.map((k) => {
      const s = svg("svg", { width: 22, height: 14, "aria-hidden": "true" }),
        tone = v.d.tones[k.tone];
      s.append(
        svg("rect", {
          x: 1,
          y: 1,
          width: 20,
          height: 12,
          rx: 3,
          fill: tone.fill,
          stroke: tone.line,
          "stroke-width": 1.5,
          "stroke-dasharray": tone.dashed ? "3 2" : null,
        }),
      );
      return el("li", {}, s, k.label + " ", el("b", {}, k.n.toLocaleString("en")));
    }),
  );
}

function levels(v) {
  const box = document.getElementById("m-level"),
    most = Math.max(6, v.d.level);
  box.replaceChildren(
    ...Array.from({ length: most }, (_, i) =>
      el("option", { value: i + 1, selected: i + 1 === v.d.level }, String(i + 1)),
    ),
  );
}

export const remember = (v) =>
  setPlace({
    at: [v.state.at],
    direction: [v.state.direction, "across"],
    by: [v.state.by, "changes"],
    level: [v.state.level],
    flip: [[...v.state.flip].slice(0, 40).join(".")],
  });

// To begin with titles can be read, and what is chosen is in sight.
function begin(v) {
  fit(v);
  if (v.scale >= 0.8) return;
  const n = v.byId.get(v.state.at),
    across = v.state.direction === "across";
  let x = across ? 16 : v.view.clientWidth / 2 - (n.b[0] + n.b[2] / 2);
  if (v.state.direction === "indented") x = Math.min(16, x);
  lookAt(v, x, across ? v.view.clientHeight / 2 - (n.b[1] + n.b[3] / 2) : 16, 1);
  show(v, n);
  draw(v, true);
}

export async function toggle(v, n) {
  if (n.p < 0 && n.o) return;
  v.state.at = n.id;
  const wanted = !n.o; // what is on the way to the chosen entry is open in any case, so that is chosen first
  v.state.flip.delete(n.id);
  if (n.v < Number(v.state.level) !== wanted) v.state.flip.add(n.id);
  await fetchDrawing(v, true);
  v.plan.showFacts();
}

export function openTo(v, level) {
  v.state.level = String(level);
  v.state.flip.clear();
  if (v.byId.get(v.state.at)?.v > level)
    v.state.at = wayTo(v, v.state.at)[Math.min(level, wayTo(v, v.state.at).length - 1)].id;
  fetchDrawing(v, true).then(() => {
    show(v, v.byId.get(v.state.at));
    draw(v, true);
  });
}

export function run(v, what, button) {
  switch (what) {
    case "fit":
      return fit(v);
    case "keys":
      return document.dispatchEvent(new CustomEvent("show-keys", { detail: keys }));
    case "picture":
      return askPicture(v);
  }
  v.plan.run(what, button);
}

function askPicture(v) {
  const box = document.getElementById("picture"),
    form = box.querySelector("form"),
    n = v.byId.get(v.state.at);
  document.getElementById("picture-branch").value = v.state.at || "";
  document.getElementById("picture-title").textContent = n ? n.t : "the chosen entry";
  for (const [name, value] of Object.entries({
    direction: v.state.direction,
    by: v.state.by,
    level: v.state.level,
    flip: [...v.state.flip].slice(0, 150).join("."),
  }))
    form.elements[name].value = value;
  box.querySelector("[data-close]").onclick = () => box.close();
  form.onsubmit = () => setTimeout(() => box.close(), 100);
  box.showModal();
}
