// The settings of a block, or the facts of a page, as a form: drawn from what the server says of its fields.
import { el } from "../shared/say.js";
import { suggest } from "../shared/suggest.js";
import { isAddress } from "./link.js";
import { makeSymbols } from "./symbols.js";

let count = 0;

// makeForm draws fields; change is called with all values once one was changed. It gives the box, and set, which takes up
// values that changed elsewhere.
export function makeForm(x, fields, values, change, name = "") {
  let now = { ...values };
  const inputs = fields
    .filter((f) => f.type !== "prose" && f.type !== "kept")
    .map((f) => {
      const put = (v) => {
        const next = { ...now };
        if (v) next[f.key] = v;
        else delete next[f.key];
        now = next;
        change(next);
        dress();
      };
      const make = kinds[f.type] || kinds.text;
      const made = make(x, f, now[f.key] || "", put, { name, values: () => now });
      return { f, box: framed(f, made), made };
    });
  const box = el("div", { class: "set-form" }, ...inputs.map((i) => i.box));
  const dress = () => {
    for (const { f, box: b } of inputs) b.hidden = !asked(f, fields, now);
  };
  dress();
  return {
    box,
    inputs,
    set(next) {
      now = { ...next };
      for (const { f, made } of inputs) if (!made.dom.contains(document.activeElement)) made.set(now[f.key] || "");
      dress();
    },
    able: (on) => box.querySelectorAll("input, select, textarea, button").forEach((i) => (i.disabled = !on)),
  };
}

// asked tells whether a field is asked for, as the server's table says: KEY, !KEY, KEY=VALUE|VALUE or !KEY=VALUE, joined
// by &.
export const asked = (f, fields, values) => !f.if || f.if.split("&").every((c) => holds(c, fields, values));

function holds(condition, fields, values) {
  const not = condition.startsWith("!"),
    [key, want] = condition.replace(/^!/, "").split("=");
  const usual = fields.find((o) => o.key === key)?.usual || "",
    got = values[key] || usual;
  return (want === undefined ? !!got : want.split("|").includes(got)) !== not;
}

function framed(f, { dom, labelled }) {
  const help = f.help ? el("p", { class: "small quiet" }, f.help) : null;
  if (labelled) return el("div", { class: "field", "data-setting": f.key }, dom, help);
  const id = "set-" + ++count;
  (dom.matches("input, select, textarea") ? dom : dom.querySelector("input, select, textarea, button")).id = id;
  return el(
    "div",
    { class: "field", "data-setting": f.key },
    el("label", { for: id }, f.label, f.required ? el("span", { class: "req" }, " required") : null),
    dom,
    help,
  );
}

const input = (f, value, put, attrs) => {
  const dom = el("input", { class: "in", value, ...attrs });
  dom.addEventListener("input", () => put(dom.value.trim()));
  return { dom, set: (v) => (dom.value = v) };
};

// The kinds of field; each gives its element and set.
const kinds = {
  text: (x, f, value, put) => input(f, value, put, { maxlength: 1000 }),
  long(x, f, value, put) {
    const dom = el("textarea", { class: "in", rows: 3 });
    dom.value = value;
    dom.addEventListener("input", () => put(dom.value));
    return { dom, set: (v) => (dom.value = v) };
  },
  number: (x, f, value, put) =>
    input(f, value, put, {
      type: "number",
      min: f.min,
      max: f.max || null,
      placeholder: f.usual || "",
      step: f.max ? 1 : "any",
    }),
  date: (x, f, value, put) => input(f, value, put, { type: "date" }),
  choice(x, f, value, put) {
    const first = f.usual ? [] : [["", "not chosen"]];
    return select([...first, ...f.choices.map((c) => [c === f.usual ? "" : c, c])], value, put);
  },
  spot,
  symbol: (x, f, value, put) => makeSymbols(x.data.symbols, value, put),
  person: (x, f, value, put) => select([["", "nobody"], ...x.data.people.map((p) => [p.id, p.name])], value, put),
  several(x, f, value, put) {
    let on = new Set(value.split("\n").filter(Boolean));
    const dom = el("fieldset", { class: "several" }, el("legend", {}, f.label));
    const boxes = f.choices.map((c) => {
      const box = el("input", { type: "checkbox" });
      box.addEventListener("change", () => {
        on[box.checked ? "add" : "delete"](c);
        put(f.choices.filter((v) => on.has(v)).join("\n"));
      });
      dom.append(el("label", {}, box, " ", c));
      return [c, box];
    });
    const set = (v) => {
      on = new Set(v.split("\n").filter(Boolean));
      for (const [c, box] of boxes) box.checked = on.has(c);
    };
    set(value);
    return { dom, set, labelled: true };
  },
  yes(x, f, value, put) {
    const box = el("input", { type: "checkbox" });
    box.checked = value === "yes";
    box.addEventListener("change", () => put(box.checked ? "yes" : ""));
    return {
      dom: el("label", { class: "tick" }, box, " ", f.label),
      set: (v) => (box.checked = v === "yes"),
      labelled: true,
    };
  },
  topic: (x, f, value, put) => listed(x.data.topics, value, put),
  group: (x, f, value, put) => listed(x.data.groups, value, put),
  menu: (x, f, value, put) => input(f, value, put, {}),
  link: (x, f, value, put) => page(x, f, value, put, true),
  page: (x, f, value, put) => page(x, f, value, put, false),
  picture: (x, f, value, put, of) => x.files.field(f, value, put, of),
  file: (x, f, value, put, of) => x.files.field(f, value, put, of),
};

export const fieldTypes = [...Object.keys(kinds), "kept"];

function select(options, value, put) {
  const dom = el("select", { class: "in" }, ...options.map(([v, words]) => el("option", { value: v }, words)));
  dom.value = value;
  dom.addEventListener("change", () => put(dom.value));
  return { dom, set: (v) => (dom.value = v) };
}

// spot is a place in the picture beside it, chosen on the picture itself: by a click, or by arrow keys.
function spot(x, f, value, put, of) {
  const name = "spot-" + ++count,
    dom = el("fieldset", { class: "spot" }, el("legend", {}, f.label)),
    picture = el("img", { alt: "" }),
    grid = el("div", { class: "spot-grid" }, picture);
  const boxes = f.choices.map((c) => {
    const box = el("input", { type: "radio", name, value: c, "aria-label": c });
    box.addEventListener("change", () => put(c === f.usual ? "" : c));
    grid.append(el("label", { title: c }, box));
    return box;
  });
  const told = el("span", { class: "small quiet" });
  dom.append(grid, told);
  const set = (v) => {
    const chosen = v || f.usual,
      src = of.values().picture || "";
    if (picture.getAttribute("src") !== src) picture.setAttribute("src", src);
    for (const box of boxes) box.checked = box.value === chosen;
    told.textContent = chosen;
  };
  dom.addEventListener("change", (e) => (told.textContent = e.target.value));
  set(value);
  return { dom, set, labelled: true };
}

function listed(known, value, put) {
  const id = "known-" + ++count;
  const dom = el("input", { class: "in", value, list: id, autocomplete: "off" });
  dom.addEventListener("input", () => put(dom.value.trim()));
  return {
    dom: el(
      "span",
      { class: "with-list" },
      dom,
      el("datalist", { id }, ...known.map((k) => el("option", { value: k }))),
    ),
    set: (v) => (dom.value = v),
  };
}

// page is a field for a page, chosen as one types, or for an address where that may be.
function page(x, f, value, put, orAddress) {
  const told = (v) => (v.startsWith("page:") ? x.data.titles[v.slice(5).split("#")[0]] || "a page that is gone" : v);
  const dom = el("input", {
    class: "in",
    value: told(value),
    placeholder: orAddress ? "a page, or https://…" : "a page",
    autocomplete: "off",
  });
  dom.addEventListener("input", () => {
    const v = dom.value.trim();
    if (!v) put("");
    else if (orAddress && isAddress(v)) put(v);
  });
  suggest(
    dom,
    x.data.find,
    () => ({ only: "page" }),
    (item) => {
      x.data.titles[item.id] = dom.value = item.title;
      put("page:" + item.id);
    },
  );
  return { dom: el("span", { class: "with-list" }, dom), set: (v) => (dom.value = told(v)) };
}
