// What stands above the rows: filters with counts, levels, and what was found.
import { chooseAll, chooseSeen } from "./select.js";
import { columns, usual } from "./columns.js";
import { countFitting, filters, layout, narrowed } from "./rows.js";
import { draw, drawHead } from "./draw.js";
import { setPlace } from "../../shared/place.js";
import { el } from "../../shared/say.js";

export function refresh(o, fromTop) {
  layout(o);
  drawFilters(o);
  drawHead(o);
  if (fromTop) o.scroll.scrollTop = 0;
  draw(o);
  remember(o);
  if (fromTop) chooseSeen(o);
}

export function drawFilters(o) {
  const counts = Object.fromEntries(filters.map((f) => [f[0], 0]));
  for (const n of o.tree.nodes.values()) for (const [name, , fits] of filters) if (fits(n, o)) counts[name]++;
  o.look.drawOnly();
  document.getElementById("filters").replaceChildren(
    ...filters
      .filter(([name]) => counts[name] || name === "all" || name === o.state.filter)
      .map(([name, label]) =>
        el(
          "button",
          {
            type: "button",
            class: "chip",
            "aria-pressed": String(o.state.filter === name),
            onclick: () => {
              o.state.filter = name;
              refresh(o);
              chooseSeen(o);
            },
          },
          label + " ",
          el("b", {}, counts[name].toLocaleString("en")),
        ),
      ),
    narrowed(o) || o.state.sort
      ? el("span", { class: "quiet small", "aria-live": "polite" }, shownWords(o))
      : levelChoice(o),
    ...chooseButton(o),
  );
}

function shownWords(o) {
  if (o.state.sort)
    return `${o.state.visible.length.toLocaleString("en")} sorted by ${columns[o.state.sort.replace(/^-/, "")].label.toLowerCase()}`;
  const n = countFitting(o);
  return n ? `${n.toLocaleString("en")} found; faint rows only show the way` : "Nothing in the tree fits this";
}

function levelChoice(o) {
  return el(
    "select",
    {
      class: "in level-of",
      id: "o-level",
      "aria-label": "Open to level",
      onchange: (e) => openTo(o, Number(e.target.value)),
    },
    ...[1, 2, 3, 4, 5, 6, 7, 8, 9].map((l) =>
      el("option", { value: l, selected: l === o.state.level }, l === 9 ? "All levels open" : `Open to level ${l}`),
    ),
  );
}

export function openTo(o, level) {
  o.state.level = level;
  o.state.flipped.clear();
  refresh(o);
  chooseSeen(o);
}

function chooseButton(o) {
  const n = narrowed(o) ? countFitting(o) : 0;
  return n > 1
    ? [
        el(
          "button",
          {
            type: "button",
            class: "link small",
            onclick: () => {
              chooseAll(o);
              o.scroll.focus({ preventScroll: true });
            },
          },
          `Choose all ${n.toLocaleString("en")}`,
        ),
      ]
    : [];
}

export const remember = (o) =>
  setPlace({
    at: [o.state.selected],
    show: [o.state.filter, "all"],
    only: [o.state.only],
    sort: [o.state.sort],
    cols: [o.state.cols.join(".") || "none", usual.join(".")],
    find: [o.find.value.trim()],
    level: [String(o.state.level), "2"],
    flip: [
      [...o.state.flipped]
        .filter((id) => o.tree.nodes.has(id))
        .slice(0, 40)
        .join("."),
    ],
  });
