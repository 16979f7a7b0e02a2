// Where one looks at the map: place, scale, and the small drawing of all of it.
import { select } from "d3-selection";
import { zoom, zoomIdentity } from "d3-zoom";
import { draw } from "./boxes.js";

// Dragging the paper, two fingers and Ctrl with the wheel are d3-zoom's; the wheel alone moves the paper, as it does
// everywhere else. What is grabbed by a box is no business of either.
export function wireLook(v, onPaper) {
  v.zoom = zoom()
    .scaleExtent([0.02, 2])
    .clickDistance(4)
    .filter((e) => (e.type === "wheel" ? e.ctrlKey || e.metaKey : !e.button && onPaper(e.target)))
    .wheelDelta((e) => -e.deltaY / 208)
    .on("start", () => (v.grabbing = true))
    .on("zoom", ({ transform: at }) => {
      Object.assign(v, { x: at.x, y: at.y, scale: at.k });
      later(v);
    })
    .on("end", () => (v.grabbing = false));
  v.pen = select(v.view).call(v.zoom).on("dblclick.zoom", null);
  v.view.addEventListener("wheel", (e) => onWheel(v, e), { passive: false });
}

// lookAt puts the corner of the drawing at a place on the screen.
export const lookAt = (v, x, y, scale = v.scale) =>
  v.pen.call(v.zoom.transform, zoomIdentity.translate(x, y).scale(scale));

export function place(v) {
  v.sheet.style.transform = `translate(${Math.round(v.x)}px, ${Math.round(v.y)}px) scale(${v.scale})`;
}

export function drawOverview(v, x0, y0, x1, y1) {
  const pen = v.overview.getContext("2d"),
    W = v.overview.width,
    H = v.overview.height,
    k = Math.min((W - 10) / v.d.w, (H - 10) / v.d.h);
  v.overview.hidden = x0 <= 0 && y0 <= 0 && x1 >= v.d.w && y1 >= v.d.h;
  if (v.overview.hidden) return;
  const ox = (W - v.d.w * k) / 2,
    oy = (H - v.d.h * k) / 2;
  pen.clearRect(0, 0, W, H);
  pen.fillStyle = "#8796B6";
  const every = Math.max(1, Math.floor(v.d.nodes.length / 3000));
  for (let i = 0; i < v.d.nodes.length; i += every) {
    const b = v.d.nodes[i].b;
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
  v.overview.k = [k, ox, oy];
}

export function onOverview(v, e) {
  const go = (ev) => {
    const r = v.overview.getBoundingClientRect(),
      [k, ox, oy] = v.overview.k;
    lookAt(
      v,
      v.view.clientWidth / 2 - ((ev.clientX - r.left - ox) / k) * v.scale,
      v.view.clientHeight / 2 - ((ev.clientY - r.top - oy) / k) * v.scale,
    );
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

export const later = (v) => {
  if (!v.frame)
    v.frame = requestAnimationFrame(() => {
      v.frame = 0;
      draw(v);
    });
};

export const zoomBy = (v, f) => v.pen.call(v.zoom.scaleBy, f);

export function fit(v) {
  const scale = Math.min(
    1,
    Math.max(0.02, Math.min((v.view.clientWidth - 60) / v.d.w, (v.view.clientHeight - 30) / v.d.h)),
  );
  lookAt(
    v,
    Math.max(16, (v.view.clientWidth - v.d.w * scale) / 2 - 10),
    (v.view.clientHeight - v.d.h * scale) / 2,
    scale,
  );
  draw(v, true);
}

export function show(v, n) {
  if (!n) return;
  const pad = 40,
    left = v.x + n.b[0] * v.scale,
    top = v.y + n.b[1] * v.scale,
    right = left + n.b[2] * v.scale + 30,
    bottom = top + n.b[3] * v.scale;
  let { x, y } = v;
  if (right > v.view.clientWidth - pad) x -= right - v.view.clientWidth + pad;
  if (x + n.b[0] * v.scale < pad) x = pad - n.b[0] * v.scale;
  if (bottom > v.view.clientHeight - pad) y -= bottom - v.view.clientHeight + pad;
  if (y + n.b[1] * v.scale < pad) y = pad - n.b[1] * v.scale;
  if (x !== v.x || y !== v.y) lookAt(v, x, y);
}

function onWheel(v, e) {
  if (e.ctrlKey || e.metaKey) return;
  e.preventDefault();
  lookAt(v, v.x - (e.shiftKey ? e.deltaY : e.deltaX), v.y - (e.shiftKey ? 0 : e.deltaY));
}
