// In the margin a line marks what differs from Live; a press shows the words.
import { Plugin, PluginKey } from "prosemirror-state";
import { Decoration, DecorationSet } from "prosemirror-view";
import { el, post } from "../shared/say.js";
import { eachBlock } from "./blocks.js";

const words = { came: "new since Live", changed: "changed since Live", moved: "moved since Live" };

export const marked = (runs) =>
  runs.map((r) => (r.kind === "same" ? r.text : el(r.kind === "gone" ? "del" : "ins", {}, r.text)));

const key = new PluginKey("since");

// marksOf gives look, which asks how the page differs from Live, and what was told last. Answers that are older than what
// is asked are dropped.
export function marksOf(x) {
  let asked = 0;
  const m = { told: [], open: new Set(), gone: (slot) => m.told.filter((c) => c.what === "went" && c.slot === slot) };
  m.look = async () => {
    if (!x.data.changes) return;
    const mine = ++asked;
    try {
      const { changes } = await post(x.data.changes, { content: x.page() });
      if (mine !== asked) return;
      m.told = changes;
      x.view.dispatch(x.view.state.tr.setMeta(key, true));
      for (const draw of x.slots.values()) draw();
    } catch {
      /* the next save asks again */
    }
  };
  m.plugin = new Plugin({
    key,
    state: {
      init: () => DecorationSet.empty,
      apply: (tr, was) => (tr.getMeta(key) ? decorations(tr.doc, m.told) : was.map(tr.mapping, tr.doc)),
    },
    props: { decorations: (state) => key.getState(state) },
  });
  return m;
}

function decorations(doc, told) {
  const of = new Map(told.map((c) => [c.id, c])),
    out = [];
  eachBlock(doc, (node, pos) => {
    const change = of.get(node.attrs.id);
    if (change && words[change.what])
      out.push(Decoration.node(pos, pos + node.nodeSize, { class: "is-changed" }, { change }));
  });
  return DecorationSet.create(doc, out);
}

// marksBox gives the button in the margin and the words that it shows. What was unfolded stays so while one writes on.
export function marksBox(x, name, changes) {
  const { open } = x.marks;
  const said =
    changes[0].what !== "went"
      ? words[changes[0].what]
      : changes.length === 1
        ? "1 block removed since Live"
        : `${changes.length} blocks removed since Live`;
  const shown = el(
    "div",
    { class: "since-words" },
    ...changes.map((c) =>
      el("p", {}, ...(c.what === "moved" ? ["It stood elsewhere; its words are the same."] : folded(c.runs))),
    ),
  );
  const button = el("button", { type: "button", class: "b-since", title: "Show the words" }, said);
  const dress = () => {
    shown.hidden = !open.has(name);
    button.setAttribute("aria-expanded", String(open.has(name)));
  };
  button.addEventListener("click", () => {
    open[open.has(name) ? "delete" : "add"](name);
    dress();
  });
  dress();
  return [button, shown];
}

// folded leaves out what is the same far from any change.
export function folded(runs, near = 60) {
  return runs.flatMap((r, i) => {
    if (r.kind !== "same" || r.text.length <= 2 * near + 20) return marked([r]);
    const head = i > 0 ? r.text.slice(0, near) : "",
      tail = i < runs.length - 1 ? r.text.slice(-near) : "";
    return [head + " … " + tail];
  });
}
