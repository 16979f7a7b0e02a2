// Where one looks at the map: place, scale, and the small drawing of all of it.
import { draw } from "./boxes.js";

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
    v.x = v.view.clientWidth / 2 - ((ev.clientX - r.left - ox) / k) * v.scale;
    v.y = v.view.clientHeight / 2 - ((ev.clientY - r.top - oy) / k) * v.scale;
    later(v);
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

function zoom(v, to, px, py) {
  to = Math.min(2, Math.max(0.02, to));
  v.x = px - ((px - v.x) * to) / v.scale;
  v.y = py - ((py - v.y) * to) / v.scale;
  v.scale = to;
  later(v);
}

export const zoomBy = (v, f) => zoom(v, v.scale * f, v.view.clientWidth / 2, v.view.clientHeight / 2);

export function fit(v) {
  v.scale = Math.min(
    1,
    Math.max(0.02, Math.min((v.view.clientWidth - 60) / v.d.w, (v.view.clientHeight - 30) / v.d.h)),
  );
  v.x = Math.max(16, (v.view.clientWidth - v.d.w * v.scale) / 2 - 10);
  v.y = (v.view.clientHeight - v.d.h * v.scale) / 2;
  draw(v, true);
}

export function show(v, n) {
  if (!n) return;
  const pad = 40,
    left = v.x + n.b[0] * v.scale,
    top = v.y + n.b[1] * v.scale,
    right = left + n.b[2] * v.scale + 30,
    bottom = top + n.b[3] * v.scale;
  if (right > v.view.clientWidth - pad) v.x -= right - v.view.clientWidth + pad;
  if (v.x + n.b[0] * v.scale < pad) v.x += pad - (v.x + n.b[0] * v.scale);
  if (bottom > v.view.clientHeight - pad) v.y -= bottom - v.view.clientHeight + pad;
  if (v.y + n.b[1] * v.scale < pad) v.y += pad - (v.y + n.b[1] * v.scale);
}

export function onWheel(v, e) {
  e.preventDefault();
  const r = v.view.getBoundingClientRect();
  if (e.ctrlKey || e.metaKey)
    return zoom(v, v.scale * Math.exp(-e.deltaY / 300), e.clientX - r.left, e.clientY - r.top);
  v.x -= e.shiftKey ? e.deltaY : e.deltaX;
  v.y -= e.shiftKey ? 0 : e.deltaY;
  later(v);
}
