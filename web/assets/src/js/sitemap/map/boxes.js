// The boxes of the map in sight, the lines between them, and the lit way from home.
import { drawOverview, place } from "./view.js";
import { remember } from "./map.js";
import { kindWords } from "../kinds.js";

const NS = "http://www.w3.org/2000/svg";

const MARGIN = 400; // px around what is in sight that is drawn, too
const FINE = 0.42; // below this scale titles cannot be read and are left out
const TILE = 600; // px of the drawing; boxes are found by tiles, so that finding those in sight costs no look at all of them

const signs = { carried: "»", reference: "=", outside: "→", file: "¶", group: "§" };

export const svg = (tag, attrs = {}, text) => {
  const node = document.createElementNS(NS, tag);
  for (const name in attrs) if (attrs[name] != null) node.setAttribute(name, attrs[name]);
  if (text != null) node.textContent = text + " "; // texts side by side are words of their own
  return node;
};

export function index(v) {
  v.tiles = new Map();
  const put = (n, x0, y0, x1, y1, what) => {
    for (let c = Math.floor(x0 / TILE); c <= x1 / TILE; c++)
      for (let r = Math.floor(y0 / TILE); r <= y1 / TILE; r++) {
        const k = c + ":" + r;
        if (!v.tiles.has(k)) v.tiles.set(k, { boxes: [], edges: [] });
        v.tiles.get(k)[what].push(n);
      }
  };
  for (const n of v.d.nodes) {
    put(n, n.b[0], n.b[1], n.b[0] + n.b[2] + 40, n.b[1] + n.b[3], "boxes");
    const up = v.d.nodes[n.p];
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

function seen(v, x0, y0, x1, y1) {
  const out = { boxes: new Set(), edges: new Set() };
  for (let c = Math.max(0, Math.floor(x0 / TILE)); c <= Math.min(x1, v.d.w) / TILE; c++)
    for (let r = Math.max(0, Math.floor(y0 / TILE)); r <= Math.min(y1, v.d.h) / TILE; r++) {
      const t = v.tiles.get(c + ":" + r);
      if (t) {
        t.boxes.forEach((n) => out.boxes.add(n));
        t.edges.forEach((n) => out.edges.add(n));
      }
    }
  return out;
}

// draw puts what is in sight into the page; unless asked to, only when one looks beyond what is drawn.
export function draw(v, anew) {
  if (!v.d || !v.view) return;
  place(v);
  const x0 = -v.x / v.scale,
    y0 = -v.y / v.scale,
    x1 = x0 + v.view.clientWidth / v.scale,
    y1 = y0 + v.view.clientHeight / v.scale;
  drawOverview(v, x0, y0, x1, y1);
  const inside =
    v.drawn &&
    x0 >= v.drawn[0] &&
    y0 >= v.drawn[1] &&
    x1 <= v.drawn[2] &&
    y1 <= v.drawn[3] &&
    v.drawn[4] === v.scale >= FINE;
  if (inside && !anew) return;
  const m = MARGIN / v.scale;
  v.drawn = [x0 - m, y0 - m, x1 + m, y1 + m, v.scale >= FINE];
  const found = seen(v, ...v.drawn);
  v.edges.setAttribute("d", [...found.edges].map((n) => n.e).join(""));
  if (v.scale >= FINE) v.boxes.replaceChildren(...[...found.boxes].sort((a, b) => a.i - b.i).map((n) => boxOf(v, n)));
  else drawCoarse(v, found.boxes);
  v.lit.setAttribute(
    "d",
    v.byId.get(v.state.at)?.w
      ? clicked(wayLit(v))
      : wayLit(v)
          .map((n) => n.e || "")
          .join(""),
  );
  const sel = document.getElementById("node-" + v.state.at);
  if (sel) v.view.setAttribute("aria-activedescendant", sel.id);
  else v.view.removeAttribute("aria-activedescendant");
  remember(v);
}

// From far away boxes are one path for each look.
function drawCoarse(v, found) {
  const paths = new Map();
  for (const n of found) {
    const [bx, by, w, h] = n.b;
    paths.set(n.c || 0, (paths.get(n.c || 0) || "") + `M${bx} ${by}h${w}v${h}h${-w}z`);
  }
  const out = [...paths].map(([c, path]) =>
    svg("path", { d: path, fill: v.d.tones[c].fill, stroke: v.d.tones[c].line, "stroke-width": 1.5 }),
  );
  const way = wayLit(v)
    .map((n) => `M${n.b[0]} ${n.b[1]}h${n.b[2]}v${n.b[3]}h${-n.b[2]}z`)
    .join("");
  v.boxes.replaceChildren(...out, svg("path", { d: way, class: "m-way" }));
}

// What is lit: the way of clicks where the map is of clicks, else the way down the tree.
const wayLit = (v) => v.byId.get(v.state.at)?.w?.map((i) => v.d.nodes[i]) ?? wayTo(v, v.state.at);

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

export function wayTo(v, id) {
  const out = [];
  for (let n = v.byId.get(id); n; n = v.d.nodes[n.p]) out.unshift(n);
  return out;
}

// What one reads in a box is how its name begins, for those who speak to the page.
const said = (n) =>
  [signs[n.k], n.l ? n.l.join(" ") : n.t, n.g, n.n ? "+" + n.n.toLocaleString("en") : ""].filter(Boolean).join(" ");

function boxOf(v, n) {
  const [bx, by, w, h] = n.b,
    tone = v.d.tones[n.c || 0],
    at = n.id === v.state.at,
    has = n.kids.length > 0 || n.n > 0;
  const on = wayLit(v).includes(n);
  const g = svg("g", {
    class: "m-node" + (on ? " on-way" : "") + (at ? " at" : "") + (v.plan.pending()?.id === n.id ? " pending" : ""),
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
  if (has) g.append(knobOf(v, n));
  return g;
}

// knobOf is where a branch is opened and closed, with how many entries it hides.
function knobOf(v, n) {
  const [, , w, h] = n.b;

  const down = v.state.direction === "down",
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
  return knob;
}
