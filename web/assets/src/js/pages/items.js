// The items of a block beside it: tiles, files, facts and the like with all that is set of them; of steps and questions,
// which are written on the page, what is set of the one in which the caret is.
import { Fragment } from "prosemirror-model";
import { Selection } from "prosemirror-state";
import { el } from "../shared/say.js";
import { follow, mark, movedTo, placeOn } from "../shared/drag.js";
import { makeForm } from "./settings.js";
import { setOf } from "./blocks.js";
import { titled } from "./schema.js";

export const makeItems = (x, kind, at, onPage) => (onPage ? written(x, kind, at) : listed(x, kind, at));

const a = (item) => (/^[aeiou]/.test(item) ? "an " : "a ") + item;

const button = (words, label, run) =>
  el("button", { type: "button", class: "btn", "aria-label": label, onclick: run }, words);

// --- items that stand beside ---

function listed(x, kind, at) {
  const list = el("ol", { class: "items" });
  const add = button(`Add ${a(kind.item)}`, null, () => {
    put([...now(), {}]);
    list.lastElementChild?.querySelector("input")?.focus();
  });
  const box = el("div", {}, list, el("p", { class: "acts" }, add));
  let forms = [];
  const now = () => x.view.state.doc.nodeAt(at())?.attrs.items || [];
  const put = (items) => {
    x.view.dispatch(setOf(x.view.state, at(), { items }));
    draw(items);
  };
  const shift = (i, by) => {
    const items = [...now()];
    if (i + by < 0 || i + by >= items.length) return;
    items.splice(i + by, 0, ...items.splice(i, 1));
    put(items);
    focusOn(i + by, by < 0 ? "up" : "down"); // so that it goes on
  };
  const focusOn = (i, way) => {
    const buttons = [...list.children[i].querySelectorAll(".item-head button")];
    buttons[{ up: 0, down: 1, remove: 2 }[way]]?.focus();
  };
  const dragged = dragging(x, list, now, put);
  function draw(items) {
    forms = items.map((it, i) => {
      const form = makeForm(x, kind.items, it, (values) => {
        const all = [...now()];
        all[i] = values;
        x.view.dispatch(setOf(x.view.state, at(), { items: all }));
      });
      const name = `${kind.item} ${i + 1}`;
      const head = el(
        "div",
        { class: "item-head can-drag", title: "Drag it to another place", onpointerdown: (e) => dragged(e, i) },
        el("b", {}, name),
        button("Up", `Move ${name} up`, () => shift(i, -1)),
        button("Down", `Move ${name} down`, () => shift(i, 1)),
        button("Remove", `Remove ${name}`, () => {
          put(now().filter((_, k) => k !== i));
          if (list.children.length) focusOn(Math.min(i, list.children.length - 1), "remove");
          else add.focus();
        }),
      );
      return { form, li: el("li", {}, head, form.box) };
    });
    list.replaceChildren(...forms.map((f) => f.li));
  }
  return {
    box,
    set(node) {
      const { items, set } = node.attrs;
      box.hidden = !!set.from; // it takes its items from elsewhere
      if (items.length !== forms.length) draw(items);
      else forms.forEach((f, i) => f.form.set(items[i]));
      box.querySelectorAll("button, input, select").forEach((b) => (b.disabled = !x.editable()));
    },
  };
}

// dragging gives what begins to drag an item of the list by its head.
const dragging = (x, list, now, put) => (e, i) => {
  if (e.button || !x.editable() || e.target.closest("button")) return;
  e.preventDefault();
  follow(e, {
    begin: () => list.children[i].classList.add("is-dragged"),
    move: (ev) => overItem(list, ev),
    end() {
      mark(list);
      list.children[i]?.classList.remove("is-dragged");
    },
    drop: (to) => put(movedTo(now(), i, to)),
  });
};

// overItem tells over which item a pointer is, and on which side of its middle.
function overItem(list, e) {
  const li = document.elementFromPoint(e.clientX, e.clientY)?.closest("ol.items > li"),
    k = li ? [...list.children].indexOf(li) : -1;
  if (k < 0) return null;
  const box = li.getBoundingClientRect(),
    how = placeOn((e.clientY - box.top) / box.height, false, 0.5);
  mark(list, li, how);
  return { k, how };
}

// --- items that are written on the page ---

function written(x, kind, at) {
  const place = el("div", {}),
    name = el("b", {});
  let form = null,
    shown = -1;
  const box = el(
    "div",
    {},
    el("div", { class: "item-head" }, name, ...acts()),
    place,
    el(
      "p",
      { class: "acts" },
      button(`Add ${a(kind.item)}`, null, () => x.view.dispatch(added(x, kind, at(), current()))),
      "",
    ),
  );
  function acts() {
    return [
      button("Up", `Move this ${kind.item} up`, () => go(-1)),
      button("Down", `Move this ${kind.item} down`, () => go(1)),
      button("Remove", `Remove this ${kind.item}`, remove),
    ];
  }
  const current = () => itemAt(x.view.state, at());
  function go(by) {
    const tr = shifted(x.view.state, at(), current(), by);
    if (tr) x.view.dispatch(tr);
  }
  function remove() {
    const node = x.view.state.doc.nodeAt(at()),
      i = current();
    if (node.childCount < 2) return;
    const from = startOf(node, at(), i);
    x.view.dispatch(x.view.state.tr.delete(from, from + node.child(i).nodeSize));
  }
  return {
    box,
    set(node) {
      const i = current();
      name.textContent = `${kind.item[0].toUpperCase()}${kind.item.slice(1)} ${i + 1} of ${node.childCount}`;
      const fields = kind.items.filter((f) => f.type !== "prose" && f.key !== "title");
      if (shown !== i || !form) {
        shown = i;
        form = makeForm(x, fields, node.child(i).attrs.set, (set) => {
          const block = x.view.state.doc.nodeAt(at());
          x.view.dispatch(setOf(x.view.state, startOf(block, at(), shown), { set }));
        });
        place.replaceChildren(form.box);
      } else form.set(node.child(i).attrs.set);
      box.querySelectorAll("button, input, select").forEach((b) => (b.disabled = !x.editable()));
    },
  };
}

// itemAt is the item of the block at pos in which the selection is; the first if it is elsewhere.
function itemAt(state, pos) {
  const { $from } = state.selection,
    depth = state.doc.resolve(pos).depth + 1;
  if ($from.depth <= depth || $from.before(depth) !== pos) return 0;
  return $from.index(depth);
}

function startOf(block, pos, index) {
  let from = pos + 1;
  for (let i = 0; i < index; i++) from += block.child(i).nodeSize;
  return from;
}

function added(x, kind, pos, index) {
  const { schema, doc, tr } = x.view.state,
    block = doc.nodeAt(pos),
    at = startOf(block, pos, index) + block.child(index).nodeSize;
  const head = titled(kind) ? [schema.nodes.item_title.create()] : [];
  const item = schema.nodes["item_" + kind.type].create(
    null,
    Fragment.from([...head, schema.nodes.paragraph.create()]),
  );
  tr.insert(at, item);
  setTimeout(() => x.view.focus());
  return tr.setSelection(Selection.near(tr.doc.resolve(at + 1))).scrollIntoView();
}

function shifted(state, pos, index, by) {
  const block = state.doc.nodeAt(pos),
    to = index + by;
  if (to < 0 || to >= block.childCount) return null;
  const item = block.child(index),
    from = startOf(block, pos, index),
    tr = state.tr.delete(from, from + item.nodeSize);
  const rest = tr.doc.nodeAt(pos),
    at = startOf(rest, pos, to);
  tr.insert(at, item);
  return tr.setSelection(Selection.near(tr.doc.resolve(at + 1)));
}
