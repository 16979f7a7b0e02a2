// What the outline can show of each entry, beside its title.
import { el, symbol } from "../shared/say.js";

export const kindWords = { page: "page", carried: "carried page", reference: "reference", outside: "outside link", file: "file", group: "group" };
export const isPage = (n) => n.k === "page" || n.k === "carried";
const leads = (n) => n.k === "outside" || n.k === "file";

// A column: what it is called, how wide, the value that is edited and the fact
// it is, who has it, what is shown in its place, and what it sorts by.
export const columns = {
  title: { label: "Entry", fact: "title", value: (n) => n.t, can: () => true },
  address: { label: "Address in Next", least: 150, grow: 1, fact: "slug", value: (n) => n.g || "", can: (n) => isPage(n) && !n.h && !n.fx, shown: (n) => n.a || "", mono: true, hint: "slug: the last part of the address" },
  owner: { label: "Owner", least: 104, fact: "owner", value: (n) => n.o || "", shown: (n) => n.o || (isPage(n) ? "no owner" : ""), wrong: (n) => !n.o && isPage(n), from: (names) => names.owners, clears: true },
  state: { label: "State", least: 108, shown: (n) => n.s || "", wick: true },
  kind: { label: "Kind", least: 104, fact: "kind", value: (n) => n.k, can: (n) => !n.h, shown: (n) => kindWords[n.k], choose: (names) => names.kinds },
  template: { label: "Template", least: 120, fact: "template", value: (n) => n.tp || "", can: isPage, choose: (names) => names.templates },
  short: { label: "Short title", least: 110, fact: "short", value: (n) => n.sh || "", clears: true },
  listed: { label: "In menus", least: 84, fact: "listed", value: (n) => (n.ul ? "no" : "yes"), shown: (n) => (n.ul ? "not listed" : "listed"), choose: () => [["yes", "listed"], ["no", "not listed"]] },
  topics: { label: "Topics", least: 130, fact: "topics", value: (n) => n.to || "", clears: true, hint: "topics with semicolons between them" },
  review: { label: "Review", least: 92, fact: "review", value: (n) => n.rv || "", wrong: (n, today) => n.rv && n.rv < today, clears: true, hint: "a date like 2026-11-24" },
  readership: { label: "May be read by", least: 120, fact: "readership", value: (n) => n.rd || "", clears: true, hint: "names or roles with semicolons between them" },
  notes: { label: "Notes", least: 150, fact: "notes", value: (n) => n.no || "", clears: true, lines: true },
  target: { label: "Leads to", least: 150, fact: "target", value: (n) => n.ta || "", can: leads, shown: (n) => (leads(n) ? n.ta || "" : n.r || ""), mono: true },
  source: { label: "Source", least: 150, fact: "source", value: (n) => n.so || "", can: (n) => n.k === "carried", mono: true, clears: true },
  changed: { label: "Last change", least: 92, shown: (n) => n.at || "" },
  visits: { label: "Visits", least: 64, shown: (n) => (n.v ? n.v.toLocaleString("en") : ""), sort: (n) => n.v || 0, number: true, hint: "in the last 30 days" },
};
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
  scroll.style.setProperty("--o-grid", ["minmax(240px, 1.3fr)", ...shown.map((c) => (c.grow ? `minmax(${c.least}px, ${c.grow}fr)` : c.least + "px"))].join(" "));
  scroll.style.setProperty("--o-least", 240 + shown.reduce((sum, c) => sum + c.least + 10, 20) + "px");
}

export function cellOf(id, n, names, today) {
  const c = columns[id], text = shownIn(c, n, names);
  const cell = el("div", {
    class: (c.mono ? "o-addr" : "o-cell") + (c.wrong?.(n, today) ? " is-error" : "") + (c.number ? " num" : "") + (writable(c, n) ? " can" : ""), role: "gridcell", "data-col": id, title: text.length > 12 ? text : null,
  });
  if (c.wick && n.w) cell.append(el("span", { class: "state" }, symbol("wick-" + n.w), text));
  else cell.append(text);
  return cell;
}

// Sorting: text as people order it, numbers by size; what is empty comes last.
const order = new Intl.Collator("en", { numeric: true, sensitivity: "base" });
export function sorted(nodes, sort, names) {
  const c = columns[sort.replace(/^-/, "")], down = sort.startsWith("-") ? -1 : 1;
  const keyed = nodes.map((n) => [c.sort ? c.sort(n) : shownIn(c, n, names), n]);
  keyed.sort(([a], [b]) => {
    if (!a !== !b) return a ? -1 : 1;
    return down * (typeof a === "number" ? a - b : order.compare(a, b));
  });
  return keyed.map(([, n]) => n);
}

// The field in which a cell is edited.
export function editorOf(id, n, names, typed) {
  const c = columns[id], value = c.value(n);
  if (c.choose) {
    const field = el("select", { class: "o-edit", "aria-label": c.label }, ...c.choose(names).map(([v, label]) => el("option", { value: v, selected: v === value }, label)));
    if (typed) field.value = c.choose(names).find(([, label]) => label.toLowerCase().startsWith(typed.toLowerCase()))?.[0] ?? value;
    return field;
  }
  if (c.lines) { // Shift Enter makes a new line
    const field = el("textarea", { class: "o-edit", rows: 1, maxlength: 2000, "aria-label": c.label });
    field.value = typed ?? value;
    return field;
  }
  const field = el("input", { class: "o-edit", value: typed ?? value, maxlength: 400, "aria-label": c.label, title: c.hint || null, placeholder: id === "title" ? "Title of the new entry" : c.fact === "review" ? "2026-11-24" : null, autocomplete: "off" });
  if (c.from) {
    field.setAttribute("list", "o-choices");
    document.getElementById("o-choices").replaceChildren(...c.from(names).map((v) => el("option", { value: v })));
  }
  return field;
}
