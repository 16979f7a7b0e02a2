// Earlier states of the draft: kept on the server, looked at beside what stands there now, brought back whole or by block.
import { el, get, say } from "../shared/say.js";
import { findBlock } from "./blocks.js";
import { marked } from "./marks.js";

export function makeStates(x) {
  const button = document.getElementById("states");
  button.addEventListener("click", () => open(x, button));
}

async function open(x, button) {
  let found;
  try {
    ({ found } = await get(x.data.states));
  } catch (problem) {
    return say(problem.message, true);
  }
  const shown = el(
    "div",
    { class: "state-shown" },
    el(
      "p",
      { class: "quiet" },
      found.length ? "Choose a time." : "Nothing was kept yet. States are kept as you write.",
    ),
  );
  const list = el(
    "ol",
    { class: "state-list" },
    ...found.map((s) =>
      el(
        "li",
        {},
        el(
          "button",
          {
            type: "button",
            onclick: (e) => {
              list
                .querySelectorAll("button")
                .forEach((b) => b.setAttribute("aria-pressed", String(b === e.currentTarget)));
              look(x, s, shown, dialog);
            },
          },
          el("b", {}, new Date(s.at).toLocaleString("en-GB", { dateStyle: "medium", timeStyle: "short" })),
          " ",
          el("span", { class: "quiet" }, s.by),
        ),
      ),
    ),
  );
  const dialog = el(
    "dialog",
    { class: "states", "aria-label": "Earlier states of this page" },
    el(
      "header",
      {},
      el("h2", {}, "Earlier states"),
      el("button", { type: "button", class: "btn", onclick: () => dialog.close() }, "Close"),
    ),
    el("div", { class: "state-sides" }, list, shown),
  );
  dialog.addEventListener("close", () => {
    dialog.remove();
    button.focus();
  });
  document.body.append(dialog);
  dialog.showModal();
}

async function look(x, s, shown, dialog) {
  let state;
  try {
    state = await get(x.data.states + "/" + s.id);
  } catch (problem) {
    return say(problem.message, true);
  }
  const whole = el(
    "button",
    {
      type: "button",
      class: "btn btn-main",
      onclick: () => {
        x.show(state.content);
        x.saving.changed();
        dialog.close();
        say("Brought back. Undo takes it away again.");
      },
    },
    "Bring this state back",
  );
  whole.disabled = !x.editable();
  shown.replaceChildren(
    el("p", { class: "acts" }, whole),
    el("h3", {}, "What differs from now"),
    ...(state.changes.length
      ? state.changes.map((c) => change(x, c, state))
      : [el("p", { class: "quiet" }, "Nothing")]),
    el("h3", {}, "As it was"),
    Object.assign(el("div", { class: "article was-page" }), { innerHTML: state.html }), // made and cleaned by the server
  );
}

const said = { came: "Not there then", went: "There then, not now", changed: "Changed since", moved: "Moved since" };

function change(x, c, state) {
  const back =
    c.what !== "came" &&
    el("button", { type: "button", class: "btn", onclick: () => bring(x, c, state, back) }, "Bring this block back");
  if (back) back.disabled = !x.editable();
  return el(
    "div",
    { class: "state-change" },
    el("p", { class: "small" }, el("b", {}, said[c.what]), " ", back || ""),
    el("p", { class: "since-words is-open" }, ...marked(c.runs)),
  );
}

// bring puts one block back as it was: over what it has become, or at the end of its slot.
function bring(x, c, state, button) {
  const then = state.content.slots[c.slot]?.find((b) => b.id === (c.was || c.id));
  if (!then) return say("This block cannot be brought back alone.", true);
  const { view } = x,
    at = findBlock(view.state.doc, c.id),
    node = x.pages.node(then);
  if (at >= 0) view.dispatch(view.state.tr.replaceWith(at, at + view.state.doc.nodeAt(at).nodeSize, node));
  else {
    const end = x.endOf(c.slot);
    if (end < 0) return say("Its slot is not there any more.", true);
    view.dispatch(view.state.tr.insert(end, node));
  }
  button.disabled = true;
  say("Block brought back.");
}
