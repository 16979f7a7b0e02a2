// The map: the tree as the server lays it out, only what is in sight in the page.
import { say, get, el } from "../shared/say.js";
import { planner } from "./plan.js";
import { suggest } from "../shared/suggest.js";

const NS = "http://www.w3.org/2000/svg";
const MARGIN = 400; // px around what is in sight that is drawn, too
const FINE = 0.42; // below this scale titles cannot be read and are left out
const signs = { carried: "»", reference: "=", outside: "→", file: "¶", group: "§" };
const kindWords = {
  carried: "carried page",
  reference: "reference",
  outside: "outside link",
  file: "file",
  group: "group",
};

const keys = [
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

const svg = (tag, attrs = {}, text) => {
  const node = document.createElementNS(NS, tag);
  for (const name in attrs) if (attrs[name] != null) node.setAttribute(name, attrs[name]);
  if (text != null) node.textContent = text + " "; // texts side by side are words of their own
  return node;
};

export function startMap(root) {
  const url = new URL(location.href),
    query = (name) => url.searchParams.get(name) || "";
  const state = {
    at: root.dataset.at || null,
    level: root.dataset.level,
    flip: new Set(root.dataset.flip.split(".").filter(Boolean)),
    direction: document.getElementById("m-direction").value,
    by: document.querySelector("#m-by [aria-pressed=true]").dataset.by,
  };
  let d = null,
    byId = new Map(),
    view,
    sheet,
    edges,
    boxes,
    lit,
    overview,
    frame;
  let scale = Number(query("scale")) || 0,
    x = Number(query("x")) || 0,
    y = Number(query("y")) || 0; // px on the screen of the drawing's corner
  let grabbing = false,
    drawn = null; // what part of the drawing is in the page

  const plan = planner(root, {
    selected: () => state.at,
    chosen: () => [],
    version: () => d.version,
    home: () => (d.nodes[0]?.v === 0 ? d.nodes[0].id : null),
    settle: async (answer) => {
      if (answer.select) state.at = answer.select;
      await fetchDrawing(true);
    },
    reload: () => fetchDrawing(true),
    others: () => fetchDrawing(true),
    edition: () => d.edition,
    holds: () => grabbing,
    draw: () => draw(true),
    run,
    focus: () => view.focus({ preventScroll: true }),
  });

  // --- what is drawn ---

  function params() {
    return new URLSearchParams({
      direction: state.direction,
      by: state.by,
      level: state.level || "",
      flip: [...state.flip].slice(0, 150).join("."),
      at: state.at || "",
    });
  }

  // While one looks at the drawing it stands still: what is chosen keeps its place on the screen.
  async function fetchDrawing(keep) {
    const before = keep && byId.get(state.at),
      held = before && [x + before.b[0] * scale, y + before.b[1] * scale];
    try {
      d = await get(root.dataset.drawing + "?" + params());
    } catch (problem) {
      say(problem.message, true);
      return false;
    }
    byId = new Map(d.nodes.map((n) => [n.id, n]));
    d.nodes.forEach((n, i) => {
      n.i = i;
      n.kids = [];
      if (n.p >= 0) d.nodes[n.p].kids.push(n);
    });
    state.level = String(d.level);
    if (!byId.has(state.at)) state.at = d.nodes[0]?.id || null;
    const now = byId.get(state.at);
    if (held && now) {
      x = held[0] - now.b[0] * scale;
      y = held[1] - now.b[1] * scale;
    }
    legend();
    levels();
    index();
    if (view) draw(true);
    return true;
  }

  // Boxes by tiles of the drawing, so that finding those in sight costs no look at all of them.
  const TILE = 600;
  let tiles = new Map();
  function index() {
    tiles = new Map();
    const put = (n, x0, y0, x1, y1, what) => {
      for (let c = Math.floor(x0 / TILE); c <= x1 / TILE; c++)
        for (let r = Math.floor(y0 / TILE); r <= y1 / TILE; r++) {
          const k = c + ":" + r;
          if (!tiles.has(k)) tiles.set(k, { boxes: [], edges: [] });
          tiles.get(k)[what].push(n);
        }
    };
    for (const n of d.nodes) {
      put(n, n.b[0], n.b[1], n.b[0] + n.b[2] + 40, n.b[1] + n.b[3], "boxes");
      const up = d.nodes[n.p];
      if (up)
        put(
          n,
          Math.min(up.b[0], n.b[0]),
          Math.min(up.b[1], n.b[1]),
          Math.max(up.b[0] + up.b[2], n.b[0] + 20),
          Math.max(up.b[1] + up.b[3], n.b[1] + n.b[3]),
          "edges",
        );
    }
  }

  function seen(x0, y0, x1, y1) {
    const out = { boxes: new Set(), edges: new Set() };
    for (let c = Math.max(0, Math.floor(x0 / TILE)); c <= Math.min(x1, d.w) / TILE; c++)
      for (let r = Math.max(0, Math.floor(y0 / TILE)); r <= Math.min(y1, d.h) / TILE; r++) {
        const t = tiles.get(c + ":" + r);
        if (t) {
          t.boxes.forEach((n) => out.boxes.add(n));
          t.edges.forEach((n) => out.edges.add(n));
        }
      }
    return out;
  }

  // --- drawing ---

  function build() {
    edges = svg("path", { class: "m-edges" });
    lit = svg("path", { class: "m-lit" });
    boxes = svg("g");
    sheet = svg("svg", { class: "m-sheet", width: 1, height: 1, role: "none" });
    sheet.append(edges, lit, boxes);
    overview = el("canvas", { class: "m-over", width: "150", height: "104", "aria-hidden": "true" });
    view = el("div", { class: "m-view", tabindex: "0", role: "tree", "aria-label": "Sitemap, drawn" }, sheet);
    root.replaceChildren(view, overview);
    view.addEventListener("keydown", onKey);
    view.addEventListener("pointerdown", onGrab);
    view.addEventListener("wheel", onWheel, { passive: false });
    view.addEventListener("dblclick", (e) => {
      const n = nodeOf(e.target);
      if (n && (n.kids.length || n.n)) toggle(n);
    });
    overview.addEventListener("pointerdown", onOverview);
    new ResizeObserver(() => draw()).observe(view);
  }

  function place() {
    sheet.style.transform = `translate(${Math.round(x)}px, ${Math.round(y)}px) scale(${scale})`;
  }

  // draw puts what is in sight into the page; unless asked to, only when one looks beyond what is drawn.
  function draw(anew) {
    if (!d || !view) return;
    place();
    const x0 = -x / scale,
      y0 = -y / scale,
      x1 = x0 + view.clientWidth / scale,
      y1 = y0 + view.clientHeight / scale;
    drawOverview(x0, y0, x1, y1);
    const inside =
      drawn && x0 >= drawn[0] && y0 >= drawn[1] && x1 <= drawn[2] && y1 <= drawn[3] && drawn[4] === scale >= FINE;
    if (inside && !anew) return;
    const m = MARGIN / scale;
    drawn = [x0 - m, y0 - m, x1 + m, y1 + m, scale >= FINE];
    const found = seen(...drawn);
    let path = "";
    for (const n of found.edges) path += n.e;
    edges.setAttribute("d", path);
    if (scale >= FINE) boxes.replaceChildren(...[...found.boxes].sort((a, b) => a.i - b.i).map(boxOf));
    else drawCoarse(found.boxes);
    lit.setAttribute(
      "d",
      byId.get(state.at)?.w
        ? clicked(wayLit())
        : wayLit()
            .map((n) => n.e || "")
            .join(""),
    );
    const sel = document.getElementById("node-" + state.at);
    if (sel) view.setAttribute("aria-activedescendant", sel.id);
    else view.removeAttribute("aria-activedescendant");
    remember();
  }

  // From far away boxes are one path for each look.
  function drawCoarse(found) {
    const paths = new Map();
    for (const n of found) {
      const [bx, by, w, h] = n.b;
      paths.set(n.c || 0, (paths.get(n.c || 0) || "") + `M${bx} ${by}h${w}v${h}h${-w}z`);
    }
    const out = [...paths].map(([c, path]) =>
      svg("path", { d: path, fill: d.tones[c].fill, stroke: d.tones[c].line, "stroke-width": 1.5 }),
    );
    const way = wayLit()
      .map((n) => `M${n.b[0]} ${n.b[1]}h${n.b[2]}v${n.b[3]}h${-n.b[2]}z`)
      .join("");
    boxes.replaceChildren(...out, svg("path", { d: way, class: "m-way" }));
  }

  // What is lit: the way of clicks where the map is of clicks, else the way down the tree.
  const wayLit = () => byId.get(state.at)?.w?.map((i) => d.nodes[i]) ?? wayTo(state.at);

  // clicked draws a way of clicks from box to box, bowed, since it need not follow the tree.
  function clicked(way) {
    const mid = (n) => [n.b[0] + n.b[2] / 2, n.b[1] + n.b[3] / 2];
    return way
      .slice(1)
      .map((n, i) => {
        const [ax, ay] = mid(way[i]),
          [bx, by] = mid(n),
          bow = 0.12;
        return `M${ax} ${ay}Q${(ax + bx) / 2 - (by - ay) * bow} ${(ay + by) / 2 + (bx - ax) * bow} ${bx} ${by}`;
      })
      .join("");
  }

  function wayTo(id) {
    const out = [];
    for (let n = byId.get(id); n; n = d.nodes[n.p]) out.unshift(n);
    return out;
  }

  // What one reads in a box is how its name begins, for those who speak to the page.
  const said = (n) =>
    [signs[n.k], n.l ? n.l.join(" ") : n.t, n.g, n.n ? "+" + n.n.toLocaleString("en") : ""].filter(Boolean).join(" ");

  function boxOf(n) {
    const [bx, by, w, h] = n.b,
      tone = d.tones[n.c || 0],
      at = n.id === state.at,
      has = n.kids.length > 0 || n.n > 0;
    const on = wayLit().includes(n);
    const g = svg("g", {
      class: "m-node" + (on ? " on-way" : "") + (at ? " at" : "") + (plan.pending()?.id === n.id ? " pending" : ""),
      transform: `translate(${bx} ${by})`,
      id: "node-" + n.id,
      "data-id": n.id,
      role: "treeitem",
      "aria-level": n.v + 1,
      "aria-selected": String(at),
      "aria-expanded": has ? String(!!n.o) : null,
      "aria-label": [said(n), kindWords[n.k], n.n ? n.n + " below" : ""].filter(Boolean).join(", "),
    });
    if (n.l) g.append(svg("title", {}, n.t));
    g.append(
      svg("rect", {
        width: w,
        height: h,
        rx: 5,
        fill: tone.fill,
        stroke: tone.line,
        "stroke-dasharray": tone.dashed ? "4 3" : null,
      }),
    );
    if (n.k) g.append(svg("text", { x: 10, y: h / 2 + 4.5, class: "m-soft" }, signs[n.k]));
    const lines = n.l || [n.t];
    lines.forEach((line, i) =>
      g.append(
        svg(
          "text",
          {
            x: n.k ? 28 : 10,
            y: lines.length === 1 ? h / 2 + 4.5 : h / 2 - 3.5 + 16 * i,
            class: n.v < 2 ? "m-top" : null,
          },
          line,
        ),
      ),
    );
    if (n.g) g.append(svg("text", { x: w - 8, y: h / 2 + 4, class: "m-small", "text-anchor": "end" }, n.g));
    if (has) {
      const down = state.direction === "down",
        knob = svg("g", {
          class: "m-knob",
          "data-knob": "",
          transform: down ? `translate(${w / 2} ${h + 1})` : `translate(${w + 1} ${h / 2})`,
        });
      if (n.n) {
        const words = "+" + n.n.toLocaleString("en"),
          wide = 12 + words.length * 6.4;
        knob.append(
          svg("rect", { x: down ? -wide / 2 : 0, y: down ? 0 : -9, width: wide, height: 18, rx: 9 }),
          svg("text", { x: down ? 0 : wide / 2, y: down ? 13 : 4, "text-anchor": "middle", class: "m-small" }, words),
        );
      } else
        knob.append(
          svg("circle", { r: 5.5, cx: down ? 0 : 1, cy: down ? 1 : 0 }),
          svg("path", { d: down ? "M-2.5 1h5" : "M-1.5 0h5" }),
        );
      g.append(knob);
    }
    return g;
  }

  function drawOverview(x0, y0, x1, y1) {
    const pen = overview.getContext("2d"),
      W = overview.width,
      H = overview.height,
      k = Math.min((W - 10) / d.w, (H - 10) / d.h);
    overview.hidden = x0 <= 0 && y0 <= 0 && x1 >= d.w && y1 >= d.h;
    if (overview.hidden) return;
    const ox = (W - d.w * k) / 2,
      oy = (H - d.h * k) / 2;
    pen.clearRect(0, 0, W, H);
    pen.fillStyle = "#8796B6";
    const every = Math.max(1, Math.floor(d.nodes.length / 3000));
    for (let i = 0; i < d.nodes.length; i += every) {
      const b = d.nodes[i].b;
      pen.fillRect(ox + b[0] * k, oy + b[1] * k, Math.max(1, b[2] * k), Math.max(0.6, b[3] * k));
    }
    pen.strokeStyle = "#B45F06";
    pen.lineWidth = 1.5;
    pen.strokeRect(
      Math.max(1, ox + x0 * k),
      Math.max(1, oy + y0 * k),
      Math.min(W - 2, (x1 - x0) * k),
      Math.min(H - 2, (y1 - y0) * k),
    );
    overview.k = [k, ox, oy];
  }

  function onOverview(e) {
    const go = (ev) => {
      const r = overview.getBoundingClientRect(),
        [k, ox, oy] = overview.k;
      x = view.clientWidth / 2 - ((ev.clientX - r.left - ox) / k) * scale;
      y = view.clientHeight / 2 - ((ev.clientY - r.top - oy) / k) * scale;
      later();
    };
    go(e);
    e.preventDefault();
    const up = () => {
      removeEventListener("pointermove", go);
      removeEventListener("pointerup", up);
    };
    addEventListener("pointermove", go);
    addEventListener("pointerup", up);
  }

  const later = () => {
    if (!frame)
      frame = requestAnimationFrame(() => {
        frame = 0;
        draw();
      });
  };

  function legend() {
    document.getElementById("m-legend").replaceChildren(
      ...d.legend.map((k) => {
        const s = svg("svg", { width: 22, height: 14, "aria-hidden": "true" }),
          tone = d.tones[k.tone];
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

  function levels() {
    const box = document.getElementById("m-level"),
      most = Math.max(6, d.level);
    box.replaceChildren(
      ...Array.from({ length: most }, (_, i) =>
        el("option", { value: i + 1, selected: i + 1 === d.level }, String(i + 1)),
      ),
    );
  }

  function remember() {
    const u = new URL(location.href);
    const set = (name, value, usual) =>
      value && value !== usual ? u.searchParams.set(name, value) : u.searchParams.delete(name);
    set("at", state.at);
    set("direction", state.direction, "across");
    set("by", state.by, "changes");
    set("level", state.level);
    set("flip", [...state.flip].slice(0, 40).join("."));
    history.replaceState(history.state, "", u);
  }

  // --- looking around ---

  function zoom(to, px, py) {
    to = Math.min(2, Math.max(0.02, to));
    x = px - ((px - x) * to) / scale;
    y = py - ((py - y) * to) / scale;
    scale = to;
    later();
  }
  const zoomBy = (f) => zoom(scale * f, view.clientWidth / 2, view.clientHeight / 2);

  function fit() {
    scale = Math.min(1, Math.max(0.02, Math.min((view.clientWidth - 60) / d.w, (view.clientHeight - 30) / d.h)));
    x = Math.max(16, (view.clientWidth - d.w * scale) / 2 - 10);
    y = (view.clientHeight - d.h * scale) / 2;
    draw(true);
  }

  // To begin with titles can be read, and what is chosen is in sight.
  function begin() {
    fit();
    if (scale >= 0.8) return;
    scale = 1;
    const n = byId.get(state.at);
    x = state.direction === "across" ? 16 : view.clientWidth / 2 - (n.b[0] + n.b[2] / 2) * scale;
    y = state.direction === "across" ? view.clientHeight / 2 - (n.b[1] + n.b[3] / 2) * scale : 16;
    if (state.direction === "indented") x = Math.min(16, x);
    show(n);
    draw(true);
  }

  function show(n) {
    if (!n) return;
    const pad = 40,
      left = x + n.b[0] * scale,
      top = y + n.b[1] * scale,
      right = left + n.b[2] * scale + 30,
      bottom = top + n.b[3] * scale;
    if (right > view.clientWidth - pad) x -= right - view.clientWidth + pad;
    if (x + n.b[0] * scale < pad) x += pad - (x + n.b[0] * scale);
    if (bottom > view.clientHeight - pad) y -= bottom - view.clientHeight + pad;
    if (y + n.b[1] * scale < pad) y += pad - (y + n.b[1] * scale);
  }

  function select(id, focus = true) {
    if (!byId.has(id)) return;
    if (plan.pending() && plan.pending().id !== id) plan.dropPending();
    const changed = id !== state.at;
    state.at = id;
    show(byId.get(id));
    draw(true);
    if (focus) view.focus({ preventScroll: true });
    if (changed) plan.showFacts();
  }

  async function lightTo(id) {
    state.at = id;
    if (!(await fetchDrawing(false))) return;
    if (scale < 0.6) scale = 1;
    show(byId.get(id));
    draw(true);
    plan.showFacts();
    view.focus({ preventScroll: true });
    const way = wayTo(id);
    say(way.map((n) => n.t).join(" › "));
  }

  async function toggle(n) {
    if (n.p < 0 && n.o) return;
    state.at = n.id;
    const wanted = !n.o; // what is on the way to the chosen entry is open in any case, so that is chosen first
    state.flip.delete(n.id);
    if (n.v < Number(state.level) !== wanted) state.flip.add(n.id);
    await fetchDrawing(true);
    plan.showFacts();
  }

  function openTo(level) {
    state.level = String(level);
    state.flip.clear();
    if (byId.get(state.at)?.v > level) state.at = wayTo(state.at)[Math.min(level, wayTo(state.at).length - 1)].id;
    fetchDrawing(true).then(() => {
      show(byId.get(state.at));
      draw(true);
    });
  }

  const nodeOf = (target) => byId.get(target.closest?.("[data-id]")?.dataset.id);

  function onWheel(e) {
    e.preventDefault();
    const r = view.getBoundingClientRect();
    if (e.ctrlKey || e.metaKey) return zoom(scale * Math.exp(-e.deltaY / 300), e.clientX - r.left, e.clientY - r.top);
    x -= e.shiftKey ? e.deltaY : e.deltaX;
    y -= e.shiftKey ? 0 : e.deltaY;
    later();
  }

  // Grabbing the paper looks elsewhere; grabbing a box moves the entry: onto
  // another box it goes below that, onto its edge beside it.
  function onGrab(e) {
    if (e.button !== 0) return;
    const n = nodeOf(e.target),
      knob = e.target.closest("[data-knob]");
    view.focus({ preventScroll: true });
    e.preventDefault();
    if (n && knob) return toggle(n);
    const sx = e.clientX,
      sy = e.clientY,
      x0 = x,
      y0 = y;
    let moving = false,
      target = null,
      ghost = null;
    const clear = () =>
      boxes.querySelectorAll(".into, .before, .after").forEach((b) => b.classList.remove("into", "before", "after"));
    const move = (ev) => {
      if (!moving && Math.hypot(ev.clientX - sx, ev.clientY - sy) < 5) return;
      moving = true;
      if (!n) {
        x = x0 + ev.clientX - sx;
        y = y0 + ev.clientY - sy;
        return later();
      }
      if (n.v === 0) return; // home stays
      ghost ||= root.appendChild(el("div", { class: "m-ghost" }, n.t));
      const r = root.getBoundingClientRect();
      ghost.style.left = ev.clientX - r.left + 10 + "px";
      ghost.style.top = ev.clientY - r.top + 8 + "px";
      clear();
      target = null;
      const box = document.elementFromPoint(ev.clientX, ev.clientY)?.closest(".m-node"),
        over = box && byId.get(box.dataset.id);
      if (!over || over === n || wayTo(over.id).includes(n)) return;
      const b = box.querySelector("rect").getBoundingClientRect(),
        down = state.direction === "down";
      const part = down ? (ev.clientX - b.left) / b.width : (ev.clientY - b.top) / b.height;
      const holds = !over.k || over.k === "carried" || over.k === "group";
      const how =
        over.v === 0 || over.p < 0 ? "into" : part < 0.25 ? "before" : part > 0.75 || !holds ? "after" : "into";
      box.classList.add(how);
      target = { over, how };
    };
    grabbing = true;
    const stop = () => {
      grabbing = false;
      removeEventListener("pointermove", move);
      removeEventListener("pointerup", up);
      removeEventListener("keydown", esc, true);
      ghost?.remove();
      clear();
    };
    const up = () => {
      stop();
      if (!moving) return n && select(n.id);
      if (!n || !target) return;
      select(n.id);
      const { over, how } = target,
        home = (m) => (m && m.v === 0 ? "" : m?.id || "");
      if (how === "into") return plan.act({ do: "move", id: n.id, parent: home(over), last: true });
      const above = d.nodes[over.p],
        line = above.kids.map((k) => k.id).filter((id) => id !== n.id);
      plan.act({
        do: "move",
        id: n.id,
        parent: home(above),
        after: how === "after" ? over.id : line[line.indexOf(over.id) - 1] || "",
      });
    };
    const esc = (ev) => {
      if (ev.key === "Escape") {
        target = null;
        moving = true;
        stop();
      }
    };
    addEventListener("pointermove", move);
    addEventListener("pointerup", up);
    addEventListener("keydown", esc, true);
  }

  function run(what, button) {
    switch (what) {
      case "fit":
        return fit();
      case "keys":
        return document.dispatchEvent(new CustomEvent("show-keys", { detail: keys }));
      case "picture":
        return askPicture();
    }
    plan.run(what, button);
  }
  document.querySelectorAll(".bar-acts [data-do]").forEach((b) => b.addEventListener("click", () => run(b.dataset.do)));
  document.getElementById("m-direction").addEventListener("change", async (e) => {
    state.direction = e.target.value;
    if (await fetchDrawing(false)) begin();
  });
  document.getElementById("m-level").addEventListener("change", (e) => openTo(Number(e.target.value)));
  for (const b of document.querySelectorAll("#m-by [data-by]"))
    b.addEventListener("click", () => {
      state.by = b.dataset.by;
      document.querySelectorAll("#m-by [data-by]").forEach((o) => o.setAttribute("aria-pressed", String(o === b)));
      fetchDrawing(true);
    });
  const find = document.getElementById("m-find");
  suggest(
    find,
    root.dataset.find,
    () => ({ all: "1" }),
    (item) => {
      find.value = item.title;
      lightTo(item.id);
    },
  );
  find.addEventListener("keydown", (e) => {
    if (e.key === "Escape") view.focus({ preventScroll: true });
  });

  function askPicture() {
    const box = document.getElementById("picture"),
      form = box.querySelector("form"),
      n = byId.get(state.at);
    document.getElementById("picture-branch").value = state.at || "";
    document.getElementById("picture-title").textContent = n ? n.t : "the chosen entry";
    for (const [name, value] of Object.entries({
      direction: state.direction,
      by: state.by,
      level: state.level,
      flip: [...state.flip].slice(0, 150).join("."),
    }))
      form.elements[name].value = value;
    box.querySelector("[data-close]").onclick = () => box.close();
    form.onsubmit = () => setTimeout(() => box.close(), 100);
    box.showModal();
  }

  function neighbour(by) {
    const n = byId.get(state.at),
      line = d.nodes.filter((m) => m.v === n.v);
    return line[line.indexOf(n) + by];
  }

  function onKey(e) {
    const n = byId.get(state.at),
      done = () => e.preventDefault();
    if (!n || e.target !== view) return;
    if (plan.pending() && (e.key === "Enter" || e.key === "Escape")) {
      done();
      return e.key === "Enter" ? plan.confirmPending() : plan.leavePending();
    }
    if ((e.ctrlKey || e.metaKey) && e.key.toLowerCase() === "z") {
      done();
      return run(e.shiftKey ? "redo" : "undo");
    }
    if (e.ctrlKey || e.metaKey) return;
    const arrow = { ArrowUp: [0, 1], ArrowDown: [0, -1], ArrowLeft: [1, 0], ArrowRight: [-1, 0] }[e.key];
    if (e.shiftKey && arrow) {
      done();
      x += arrow[0] * 120;
      y += arrow[1] * 120;
      return later();
    }
    if (e.altKey) {
      const step = { ArrowUp: "up", ArrowDown: "down", ArrowRight: "in", ArrowLeft: "out" }[e.key];
      if (step) {
        done();
        plan.act({ do: "step", step, id: n.id });
      }
      return;
    }
    const turned =
      state.direction === "down"
        ? { ArrowDown: "ArrowRight", ArrowUp: "ArrowLeft", ArrowRight: "ArrowDown", ArrowLeft: "ArrowUp" }[e.key] ||
          e.key
        : e.key;
    switch (turned) {
      case "ArrowRight":
        if (n.n) toggle(n);
        else if (n.kids.length) select(n.kids[0].id);
        break;
      case "ArrowLeft":
        if (n.p >= 0) select(d.nodes[n.p].id);
        break;
      case "ArrowDown":
        if (neighbour(1)) select(neighbour(1).id);
        break;
      case "ArrowUp":
        if (neighbour(-1)) select(neighbour(-1).id);
        break;
      case "Home":
        select(d.nodes[0].id);
        break;
      case "Enter":
      case " ":
        if (n.kids.length || n.n) toggle(n);
        break;
      case "+":
      case "=":
        zoomBy(1.25);
        break;
      case "-":
        zoomBy(0.8);
        break;
      case "0":
        fit();
        break;
      case "m":
        run("move");
        break;
      case "t":
        find.focus();
        find.select();
        break;
      case "Delete":
        run("remove");
        break;
      case "o":
        if (!n.k || n.k === "carried") location.href = root.dataset.pages + "/" + encodeURIComponent(n.id);
        break;
      case "f":
        plan.goToFacts();
        break;
      case "?":
        run("keys");
        break;
      default:
        if (!/^[1-9]$/.test(e.key)) return;
        openTo(Number(e.key));
    }
    done();
  }

  fetchDrawing(false).then((ok) => {
    if (!ok)
      return root.replaceChildren(
        el("p", { class: "problem" }, "The map could not be drawn."),
        el("button", { class: "btn", onclick: () => location.reload() }, "Try again"),
      );
    build();
    begin();
    view.focus({ preventScroll: true });
    plan.showFacts();
    plan.watch();
  });
}
