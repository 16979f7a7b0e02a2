// How the outline is looked at: which columns, what only, in which order, and
// the views that are kept.
import { say, post, el } from "../shared/say.js";
import { columns, fact, isPage, kindWords } from "./columns.js";

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
  const { state, tree } = view;
  const only = document.getElementById("o-only"),
    cols = document.getElementById("o-columns"),
    kept = document.getElementById("o-views");
  let drawn = "",
    views = [];

  function drawOnly() {
    const counts = new Map();
    const count = (key) => counts.set(key, (counts.get(key) || 0) + 1);
    const names = view.names();
    for (const n of tree.nodes.values()) {
      count("kind:" + n.k);
      if (fact(n, "owner")) count("owner:" + fact(n, "owner"));
      if (fact(n, "template") && isPage(n)) count("template:" + fact(n, "template"));
      for (const t of topicsOf(n)) count("topic:" + t);
      for (const id of n.fits || []) count("is:" + id);
    }
    if (state.only && !counts.has(state.only)) counts.set(state.only, 0);
    const now = state.only + JSON.stringify([...counts]);
    if (now === drawn) return;
    drawn = now;
    const label = {
      is: Object.fromEntries(JSON.parse(root.dataset.filters)),
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
                el("option", { value: key, selected: key === state.only }, `${words} (${n.toLocaleString("en")})`),
              ),
          )
        : null;
    };
    only.replaceChildren(
      ...[
        el("option", { value: "" }, "Filter"),
        group("is", "State"),
        group("kind", "Kind"),
        group("owner", "Owner"),
        group("template", "Template"),
        group("topic", "Topic"),
      ].filter(Boolean),
    );
    only.classList.toggle("on", state.only !== "");
  }
  only.addEventListener("change", () => {
    state.only = only.value;
    view.refresh(true);
  });

  function drawColumns() {
    const box = cols.querySelector(".pop-box");
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
                checked: state.cols.includes(id),
                onchange: (e) => {
                  const order = Object.keys(columns);
                  state.cols = e.target.checked
                    ? [...state.cols, id].sort((a, b) => order.indexOf(a) - order.indexOf(b))
                    : state.cols.filter((k) => k !== id);
                  if (state.col === id) state.col = null;
                  view.refresh();
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
            state.sort = e.target.value;
            view.refresh(true);
          },
        },
        el("option", { value: "" }, "place in the tree"),
        ...Object.entries(columns).flatMap(([id, c]) =>
          [
            ["", "first to last"],
            ["-", "last to first"],
          ].map(([sign, words]) =>
            el("option", { value: sign + id, selected: state.sort === sign + id }, `${c.label}, ${words}`),
          ),
        ),
      ),
    );
  }
  cols.addEventListener("toggle", () => {
    if (cols.open) drawColumns();
  });

  function drawViews() {
    const box = kept.querySelector(".pop-box"),
      name = el("input", {
        class: "in",
        id: "o-view-name",
        maxlength: 60,
        placeholder: "Name of this view",
        autocomplete: "off",
      });
    const keep = async () => {
      const now = await change("", { name: name.value, query: location.search });
      if (now) say(`Kept as “${name.value.trim()}”.`);
    };
    name.addEventListener("keydown", (e) => {
      if (e.key === "Enter") {
        e.preventDefault();
        keep();
      }
    });
    box.replaceChildren(
      views.length
        ? el(
            "ul",
            {},
            ...views.map((v) =>
              el(
                "li",
                {},
                el(
                  "button",
                  {
                    type: "button",
                    class: "link",
                    onclick: () => {
                      kept.open = false;
                      view.go(v.query);
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
                    onclick: () => change("/drop", v),
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
  kept.addEventListener("toggle", () => {
    if (kept.open) drawViews();
  });

  async function change(path, v) {
    try {
      views = (await post(root.dataset.views + path, v)).views;
    } catch (problem) {
      return void say(problem.message, true);
    }
    drawViews();
    return views;
  }

  // One box is open at a time; Escape and a click elsewhere close it.
  for (const box of [cols, kept]) {
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
    drawOnly,
    setViews: (list) => {
      views = list;
    },
  };
}
