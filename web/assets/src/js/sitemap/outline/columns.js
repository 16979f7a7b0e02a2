// What the outline can show of each entry, beside its title.
import { el, symbol } from "../../shared/say.js";
import { chipsIn } from "../../shared/chips.js";
import { isPage, kindWords } from "../kinds.js";

// What stands in a field of an entry: all that is not as usual came with it.
export const fact = (n, key) => n.facts?.[key] ?? fields[key]?.default ?? "";
const fields = {};

// Columns that show something else than a field, or show a field in a way of their own.
const own = {
  title: { label: "Entry", value: (n) => n.t, grow: 1.3 },
  address: {
    label: "Address in Next",
    field: "slug",
    grow: 1,
    shown: (n) => n.a || "",
    can: (n) => !n.fx,
    clears: false,
    hint: "slug: the last part of the address",
  },
  owner: {
    shown: (n) => fact(n, "owner") || (isPage(n) ? "no owner" : ""),
    wrong: (n) => n.fits?.includes("no-owner"),
    from: (names) => names.owners,
  },
  state: { label: "State", least: 108, shown: (n) => n.s || "", wick: true },
  kind: { value: (n) => n.k, shown: (n) => kindWords[n.k], choose: (names) => names.kinds },
  template: { choose: (names) => names.templates },
  listed: {
    choose: () => [
      ["yes", "listed"],
      ["no", "not listed"],
    ],
  },
  review: { wrong: (n) => n.fits?.includes("review"), hint: "a date like 2026-11-24" },
  target: {
    shown: (n) => (n.k === "reference" ? n.r || "" : fact(n, "target")),
    can: (n) => n.k !== "reference",
    clears: false,
  },
  topics: { from: (names) => names.topics },
  readership: { from: (names) => names.readers },
  changed: { label: "Last change", least: 92, shown: (n) => n.at || "" },
  visits: {
    label: "Visits",
    least: 64,
    shown: (n) => (n.v ? n.v.toLocaleString("en") : ""),
    sort: (n) => n.v || 0,
    number: true,
    hint: "in the last 30 days",
  },
};
const first = ["title", "address", "owner", "state"],
  last = ["changed", "visits"];

// A column: what it is called, how wide, the value that is edited and the field it is, who has it, what is
// shown in its place, and what it sorts by. They are made of the fields that the server tells.
export const columns = {};
export function learn(list) {
  for (const f of list) fields[f.key] = f;
  const rest = list.map((f) => f.key).filter((key) => !first.includes(key) && key !== "slug");
  for (const id of [...first, ...rest, ...last]) columns[id] = column(id, own[id] || {});
}

function column(id, mine) {
  const f = fields[mine.field || id];
  if (!f) return mine;
  const has = (n) => (!f.on || f.on.includes(n.k)) && !(f.notHome && n.h);
  return {
    label: f.label,
    least: f.width,
    fact: f.key,
    value: (n) => fact(n, f.key),
    mono: f.input === "address",
    lines: f.input === "lines",
    several: f.input === "many" || f.input === "readers",
    clears: !f.needed && !mine.choose,
    hint: f.help,
    most: f.most,
    ...mine,
    can: (n) => has(n) && (!mine.can || mine.can(n)),
  };
}
export const usual = ["address", "owner", "state"];

export const shownIn = (c, n, names) => {
  if (c.shown) return c.shown(n);
  if (c.can && !c.can(n)) return "";
  const v = c.value(n);
  return c.choose ? c.choose(names).find(([key]) => key === v)?.[1] || v : v;
};
export const writable = (c, n) => !!c?.fact && (!c.can || c.can(n));

// The grid: the title takes what is left, every column has its least width.
export function fitGrid(scroll, ids) {
  const shown = ids.map((id) => columns[id]);
  scroll.style.setProperty(
    "--o-grid",
    ["minmax(240px, 1.3fr)", ...shown.map((c) => (c.grow ? `minmax(${c.least}px, ${c.grow}fr)` : c.least + "px"))].join(
      " ",
    ),
  );
  scroll.style.setProperty("--o-least", 240 + shown.reduce((sum, c) => sum + c.least + 10, 20) + "px");
}

export function cellOf(id, n, names) {
  const c = columns[id],
    text = shownIn(c, n, names);
  const cell = el("div", {
    class:
      (c.mono ? "o-addr" : "o-cell") +
      (c.wrong?.(n) ? " is-error" : "") +
      (c.number ? " num" : "") +
      (writable(c, n) ? " can" : ""),
    role: "gridcell",
    "data-col": id,
    title: text.length > 12 ? text : null,
  });
  if (c.wick && n.w) cell.append(el("span", { class: "state" }, symbol("wick-" + n.w), text));
  else cell.append(text);
  return cell;
}

// Sorting: text as people order it, numbers by size; what is empty comes last.
const order = new Intl.Collator("en", { numeric: true, sensitivity: "base" });
export function sorted(nodes, sort, names) {
  const c = columns[sort.replace(/^-/, "")],
    down = sort.startsWith("-") ? -1 : 1;
  const keyed = nodes.map((n) => [c.sort ? c.sort(n) : shownIn(c, n, names), n]);
  keyed.sort(([a], [b]) => {
    if (!a !== !b) return a ? -1 : 1;
    return down * (typeof a === "number" ? a - b : order.compare(a, b));
  });
  return keyed.map(([, n]) => n);
}

// The field in which a cell is edited.
export function editorOf(id, n, names, typed) {
  const c = columns[id],
    value = c.value(n);
  if (c.choose) {
    const field = el(
      "select",
      { class: "o-edit", "aria-label": c.label },
      ...c.choose(names).map(([v, label]) => el("option", { value: v, selected: v === value }, label)),
    );
    if (typed)
      field.value =
        c.choose(names).find(([, label]) => label.toLowerCase().startsWith(typed.toLowerCase()))?.[0] ?? value;
    return field;
  }
  if (c.lines) {
    // Shift Enter makes a new line
    const field = el("textarea", { class: "o-edit", rows: 1, maxlength: c.most, "aria-label": c.label });
    field.value = typed ?? value;
    return field;
  }
  if (c.from)
    document.getElementById("o-choices").replaceChildren(...c.from(names).map((v) => el("option", { value: v })));
  if (c.several)
    return chipsIn(
      { id: "o-names", class: "o-edit o-names", list: "o-choices", "aria-label": c.label },
      typed ?? value,
    );
  const field = el("input", {
    class: "o-edit",
    value: typed ?? value,
    maxlength: c.most,
    "aria-label": c.label,
    title: c.hint || null,
    placeholder: id === "title" ? "Title of the new entry" : c.fact === "review" ? "2026-11-24" : null,
    autocomplete: "off",
  });
  if (c.from) field.setAttribute("list", "o-choices");
  return field;
}
