// Asking where a link in a text leads: to a page, chosen as one types, or to an address.
import { el, key, post, say } from "../shared/say.js";
import { suggest } from "../shared/suggest.js";

export function askLink(x) {
  if (!x.editable()) return true;
  if (!x.view.state.selection.$from.parent.inlineContent) return true;
  const link = linkAt(x.view.state);
  const field = el("input", {
    class: "in",
    type: "search",
    "aria-label": "Page, or a URL",
    placeholder: "a page, or https://…",
    autocomplete: "off",
    value: link.mark && !link.mark.attrs.href.startsWith("page:") ? link.mark.attrs.href : "",
  });
  const end = () => {
    box.remove();
    x.view.focus();
  };
  const use = (href, title) => {
    if (!isAddress(href)) {
      field.setAttribute("aria-invalid", "true");
      return field.focus();
    }
    setLink(x.view, link, href, title);
    end();
  };
  const unlink = () => {
    x.view.dispatch(x.view.state.tr.removeMark(link.from, link.to, x.view.state.schema.marks.link));
    end();
  };
  const box = popover(field, link.mark, () => use(field.value.trim(), ""), unlink, end);
  if (x.data.newPage) box.append(planned(x, field, use));
  show(box, x.view.coordsAtPos(x.view.state.selection.from));
  suggest(
    field,
    x.data.find,
    () => ({ only: "page" }),
    (item) => use("page:" + item.id, item.title),
  );
  box.addEventListener("keydown", (e) => {
    if (e.key === "Escape") end();
    if (e.key === "Enter" && e.target === field) {
      e.preventDefault();
      use(field.value.trim(), "");
    }
  });
  field.focus();
  return true;
}

// planned offers to plan a page that is not there yet, and links to it.
function planned(x, field, use) {
  const place = x.data.belowName ? ` below “${x.data.belowName}”` : "",
    act = key();
  const button = el("button", { class: "btn", type: "button" }),
    line = el("p", { class: "acts", hidden: true }, button);
  field.addEventListener("input", () => {
    const title = field.value.trim();
    button.textContent = `Plan a page called “${title}”${place}`;
    line.hidden = !title || isAddress(title);
  });
  button.addEventListener("click", async () => {
    button.disabled = true;
    try {
      const made = await post(x.data.newPage, { key: act, title: field.value.trim(), parent: x.data.below });
      x.data.titles[made.id] = made.title;
      use("page:" + made.id, made.title);
      say(`“${made.title}” is planned${place}.`);
    } catch (problem) {
      button.disabled = false;
      say(problem.message, true);
    }
  });
  return line;
}

export const isAddress = (href) => /^(page:|https?:\/\/|mailto:|tel:|\/)/.test(href);

// linkAt gives the link in which the selection is, and what it spans: the whole link where nothing is selected.
function linkAt(state) {
  const { from, to, empty, $from } = state.selection;
  const mark = state.schema.marks.link.isInSet($from.marks()) || (empty ? null : markIn(state, from, to));
  const start = empty && mark ? $from.parent.childAfter($from.parentOffset) : {};
  if (!start.node) return { mark, from, to, empty };
  const a = $from.start() + start.offset;
  return { mark, from: a, to: a + start.node.nodeSize, empty };
}

// linkSelection makes words that are selected lead to a URL that is pasted on them.
export function linkSelection(x, pasted) {
  const { selection } = x.view.state,
    url = pasted.trim();
  if (selection.empty || !selection.$from.sameParent(selection.$to) || !selection.$from.parent.inlineContent)
    return false;
  if (!isAddress(url) || /\s/.test(url) || selection.$from.parent.type.spec.code) return false;
  setLink(x.view, { from: selection.from, to: selection.to, empty: false }, url, "");
  return true;
}

function markIn(state, from, to) {
  let found = null;
  state.doc.nodesBetween(from, to, (n) => {
    found = found || state.schema.marks.link.isInSet(n.marks);
  });
  return found;
}

// setLink makes what is selected lead somewhere; where nothing is, it writes a new link.
function setLink(view, { mark, from, to, empty }, href, title) {
  const { schema, tr } = view.state,
    made = schema.marks.link.create({ href });
  if (empty && !mark) view.dispatch(tr.replaceSelectionWith(schema.text(title || href, [made]), false));
  else view.dispatch(tr.removeMark(from, to, schema.marks.link).addMark(from, to, made));
}

function popover(field, mark, use, unlink, end) {
  const button = (cls, words, onclick) => el("button", { class: cls, type: "button", onclick }, words);
  return el(
    "div",
    { class: "popover", role: "dialog", "aria-label": "Link" },
    el("label", {}, "Link to a page, or a URL"),
    field,
    el(
      "div",
      { class: "acts" },
      button("btn btn-main", "Link to this URL", use),
      mark ? button("btn", "Unlink", unlink) : null,
      button("btn", "Cancel", end),
    ),
  );
}

function show(box, at) {
  document.body.append(box);
  box.style.left = Math.min(at.left, innerWidth - 360) + "px";
  box.style.top = Math.min(at.bottom + 6, innerHeight - 180) + "px";
}
