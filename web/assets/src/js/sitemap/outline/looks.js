// How the outline is looked at: which columns, what only, in which order, and
// the views that are kept. What it knows is one object, o.
import { say, post, el } from "../../shared/say.js";
import { columns, fact } from "./columns.js";
import { isPage, kindWords } from "../kinds.js";

const topicsOf = (n) => {
  const list = fact(n, "topics");
  return list ? list.split("; ") : [];
};

// fits gives the test of an "Only", which is written like owner:Ines Duarte.
export function fits(only) {
  const [what, value] = [only.slice(0, only.indexOf(":")), only.slice(only.indexOf(":") + 1)];
  switch (what) {
    case "is":
      return (n) => !!n.fits?.includes(value);
    case "kind":
      return (n) => n.k === value;
    case "owner":
      return (n) => fact(n, "owner") === value;
    case "template":
      return (n) => fact(n, "template") === value && isPage(n);
    case "topic":
      return (n) => topicsOf(n).includes(value);
  }
  return () => true;
}

// view: state, tree, names(), today(), refresh(), go(query) to look as a kept view does.
export function looks(root, view) {
  const o = {
    root,
    view,
    state: view.state,
    tree: view.tree,
    only: document.getElementById("o-only"),
    cols: document.getElementById("o-columns"),
    kept: document.getElementById("o-views"),
    drawn: "",
    views: [],
  };
  o.only.addEventListener("change", () => {
    o.state.only = o.only.value;
    o.view.refresh(true);
  });
  o.cols.addEventListener("toggle", () => {
    if (o.cols.open) drawColumns(o);
  });
  o.kept.addEventListener("toggle", () => {
    if (o.kept.open) drawViews(o);
  });

  // One box is open at a time; Escape and a click elsewhere close it.
  for (const box of [o.cols, o.kept]) {
    box.addEventListener("keydown", (e) => {
      if (e.key === "Escape") {
        box.open = false;
        box.querySelector("summary").focus();
      }
    });
    document.addEventListener("pointerdown", (e) => {
      if (!box.contains(e.target)) box.open = false;
    });
  }

  return {
    drawOnly: () => drawOnly(o),
    setViews: (list) => {
      o.views = list;
    },
  };
}

function drawOnly(o) {
  const counts = new Map();
  const count = (key) => counts.set(key, (counts.get(key) || 0) + 1);
  const names = o.view.names();
  for (const n of o.tree.nodes.values()) {
    count("kind:" + n.k);
    if (fact(n, "owner")) count("owner:" + fact(n, "owner"));
    if (fact(n, "template") && isPage(n)) count("template:" + fact(n, "template"));
    for (const t of topicsOf(n)) count("topic:" + t);
    for (const id of n.fits || []) count("is:" + id);
  }
  if (o.state.only && !counts.has(o.state.only)) counts.set(o.state.only, 0);
  const now = o.state.only + JSON.stringify([...counts]);
  if (now === o.drawn) return;
  o.drawn = now;
  const label = {
    is: Object.fromEntries(JSON.parse(o.root.dataset.filters)),
    kind: kindWords,
    template: Object.fromEntries(names.templates),
  };
  const group = (what, title) => {
    const items = [...counts]
      .filter(([key]) => key.startsWith(what + ":"))
      .map(([key, n]) => [key, label[what]?.[key.slice(what.length + 1)] || key.slice(what.length + 1), n]);
    items.sort((a, b) => a[1].localeCompare(b[1], "en"));
    return items.length
      ? el(
          "optgroup",
          { label: title },
          ...items
            .slice(0, 300)
            .map(([key, words, n]) =>
              el("option", { value: key, selected: key === o.state.only }, `${words} (${n.toLocaleString("en")})`),
            ),
        )
      : null;
  };
  o.only.replaceChildren(
    ...[
      el("option", { value: "" }, "Filter"),
      group("is", "State"),
      group("kind", "Kind"),
      group("owner", "Owner"),
      group("template", "Template"),
      group("topic", "Topic"),
    ].filter(Boolean),
  );
  o.only.classList.toggle("on", o.state.only !== "");
}

function drawColumns(o) {
  const box = o.cols.querySelector(".pop-box");
  box.replaceChildren(
    el(
      "fieldset",
      {},
      el("legend", {}, "Show beside the title"),
      ...Object.entries(columns)
        .filter(([id]) => id !== "title")
        .map(([id, c]) =>
          el(
            "label",
            {},
            el("input", {
              type: "checkbox",
              checked: o.state.cols.includes(id),
              onchange: (e) => {
                const order = Object.keys(columns);
                o.state.cols = e.target.checked
                  ? [...o.state.cols, id].sort((a, b) => order.indexOf(a) - order.indexOf(b))
                  : o.state.cols.filter((k) => k !== id);
                if (o.state.col === id) o.state.col = null;
                o.view.refresh();
              },
            }),
            " " + c.label,
          ),
        ),
    ),
    el("label", { for: "o-sort" }, "Sort the view by"),
    el(
      "select",
      {
        class: "in",
        id: "o-sort",
        onchange: (e) => {
          o.state.sort = e.target.value;
          o.view.refresh(true);
        },
      },
      el("option", { value: "" }, "place in the tree"),
      ...Object.entries(columns).flatMap(([id, c]) =>
        [
          ["", "first to last"],
          ["-", "last to first"],
        ].map(([sign, words]) =>
          el("option", { value: sign + id, selected: o.state.sort === sign + id }, `${c.label}, ${words}`),
        ),
      ),
    ),
  );
}

function drawViews(o) {
  const box = o.kept.querySelector(".pop-box"),
    name = el("input", {
      class: "in",
      id: "o-view-name",
      maxlength: 60,
      placeholder: "Name of this view",
      autocomplete: "off",
    });
  const keep = async () => {
    const now = await change(o, "", { name: name.value, query: location.search });
    if (now) say(`Kept as “${name.value.trim()}”.`);
  };
  name.addEventListener("keydown", (e) => {
    if (e.key === "Enter") {
      e.preventDefault();
      keep();
    }
  });
  box.replaceChildren(
    o.views.length
      ? el(
          "ul",
          {},
          ...o.views.map((v) =>
            el(
              "li",
              {},
              el(
                "button",
                {
                  type: "button",
                  class: "link",
                  onclick: () => {
                    o.kept.open = false;
                    o.view.go(v.query);
                  },
                },
                v.name,
              ),
              el(
                "button",
                {
                  type: "button",
                  class: "tool",
                  "aria-label": `Forget the view ${v.name}`,
                  title: "Forget this view",
                  onclick: () => change(o, "/drop", v),
                },
                "×",
              ),
            ),
          ),
        )
      : el("p", { class: "small quiet" }, "Keep filters, columns and sorting under a name, to look this way again."),
    el("label", { for: "o-view-name" }, "Keep how it looks now"),
    el("p", { class: "acts" }, name, el("button", { type: "button", class: "btn", onclick: keep }, "Keep")),
  );
}

async function change(o, path, v) {
  try {
    o.views = (await post(o.root.dataset.views + path, v)).views;
  } catch (problem) {
    return void say(problem.message, true);
  }
  drawViews(o);
  return o.views;
}
