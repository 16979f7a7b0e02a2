// A tile board in the page editor.
import { el } from "../shared/say.js";
import { suggest } from "../shared/suggest.js";

export const block = {
  empty: () => ({ type: "tiles", tiles: [] }),
  draw(ed, b, box) {
    b.tiles ||= [];
    box.head.append(el("span", { class: "gap" }));
    box.body.append(
      el(
        "div",
        { class: "tile-list" },
        ...b.tiles.map((t, i) => card(ed, b, box, t, i)),
        el("div", {}, adds(ed, b, box)),
      ),
    );
  },
};

function adds(ed, b, box) {
  const add = () => {
    b.tiles.push({ to: "", title: "", line: "", symbol: "" });
    box.redraw().querySelector(".tile-card:last-of-type input")?.focus();
  };
  return el("button", { type: "button", class: "btn", onclick: add }, "Add a tile");
}

function card(ed, b, box, t, i) {
  const title = written(ed, t, "title", "Title", "Title of the tile", 80);
  return el(
    "div",
    { class: "tile-card" },
    leadsTo(ed, t, title),
    title,
    written(ed, t, "line", "A line of text", "Line of text", 140),
    symbolOf(ed, t),
    cardActs(ed, b, box, i),
  );
}

const written = (ed, t, field, placeholder, label, most) =>
  el("input", {
    class: "in",
    value: t[field] || "",
    placeholder,
    "aria-label": label,
    maxlength: most,
    oninput: (e) => {
      t[field] = e.target.value;
      ed.changed();
    },
  });

// leadsTo is the field for a page, chosen as one types, or for an address.
function leadsTo(ed, t, title) {
  const to = el("input", {
    class: "in",
    value: t.to?.startsWith("page:") ? ed.titles[t.to.slice(5)] || t.title : t.to || "",
    placeholder: "a page, or https://…",
    "aria-label": "Leads to",
    autocomplete: "off",
  });
  to.addEventListener("change", () => {
    if (!/^(https?:\/\/|mailto:|\/)/.test(to.value.trim())) return;
    t.to = to.value.trim();
    ed.changed();
  });
  suggest(
    to,
    ed.findURL,
    () => ({ only: "page" }),
    (item) => {
      t.to = "page:" + item.id;
      ed.titles[item.id] = to.value = item.title;
      if (!t.title) t.title = title.value = item.title;
      ed.changed();
    },
  );
  return to;
}

const symbolOf = (ed, t) =>
  el(
    "select",
    {
      class: "in",
      "aria-label": "Symbol",
      onchange: (e) => {
        t.symbol = e.target.value;
        ed.changed();
      },
    },
    ...ed.symbols.map((s) => el("option", { value: s, selected: s === (t.symbol || "") }, s || "no symbol")),
  );

function cardActs(ed, b, box, i) {
  const shift = (n) => {
    if (i + n < 0 || i + n >= b.tiles.length) return;
    b.tiles.splice(i + n, 0, ...b.tiles.splice(i, 1));
    box.redraw();
    ed.changed();
  };
  const remove = () => {
    b.tiles.splice(i, 1);
    box.redraw();
    ed.changed();
  };
  const button = (words, label, onclick) =>
    el("button", { type: "button", class: "tool", "aria-label": label, onclick }, words);
  return el(
    "div",
    { class: "row" },
    button("←", "Move tile before", () => shift(-1)),
    button("→", "Move tile after", () => shift(1)),
    button("Remove", null, remove),
  );
}
