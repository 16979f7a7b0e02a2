// A template as it is edited: its parts are blocks of a page, drawn with what they say of themselves.
import { el, say } from "../shared/say.js";

const still = { contenteditable: "false" };

// drawPart draws a part: its name and terms above, and what it shows.
export function drawPart(v) {
  const { node, body, content } = v,
    { set } = node.attrs;
  body.className = "b-body tpl tpl-" + node.type.name.slice("b_part_".length);
  const head = { part_slot: slotHead, part_fixed: fixedHead, part_facts: factsHead, part_lead: leadHead }[v.kind.type];
  const side = set.side ? [el("p", { class: "tpl-tag" }, "In the side column")] : [];
  body.replaceChildren(
    el("div", { class: "tpl-head", ...still }, ...side, ...head(v, set)),
    ...(content ? [content] : []),
  );
}

function slotHead(v, set) {
  const terms = [
    set.takes ? "takes " + set.takes.split("\n").join(", ").toLowerCase() : "takes every kind of block",
    set.most && `at most ${set.most}`,
    set.required && "required",
  ];
  return [
    el(
      "p",
      { class: "tpl-tag" },
      "Slot ",
      el("b", {}, set.name || "without a name"),
      " · ",
      terms.filter(Boolean).join(" · "),
    ),
    ...(set.label ? [el("h2", { class: "slot-label" }, set.label)] : []),
    ...(set.help ? [el("p", { class: "small quiet" }, set.help)] : []),
    el("p", { class: "small quiet" }, v.node.childCount ? "A new page begins with:" : "A new page begins empty."),
  ];
}

const fixedHead = () => [el("p", { class: "tpl-tag" }, "Fixed part · the same on every page")];

function factsHead(v) {
  const { items } = v.node.attrs;
  const told = (it) => [it.type || "Text", it.unit, it.required && "required"].filter(Boolean).join(", ");
  const row = (it) =>
    el("div", {}, el("dt", {}, it.label || "without a label"), el("dd", { class: "quiet" }, told(it)));
  return [
    el("p", { class: "tpl-tag" }, "Facts of the page"),
    items.length
      ? el("dl", { class: "facts" }, ...items.map(row))
      : el("p", { class: "quiet" }, "No facts yet. Add them beside."),
  ];
}

const leadHead = (v, set) => [
  el(
    "p",
    { class: "tpl-tag" },
    "Summary · ",
    el("b", {}, set.label || "without a label"),
    set.required ? " · required" : "",
  ),
  el("p", { class: "lead is-blank" }, set.help || "A sentence or two under the title."),
];

// makeTemplate gives what a template has in place of the lock of a page: each edits a draft of their own.
export function makeTemplateLock(x) {
  const note = document.getElementById("lock-note");
  x.met = () => {
    x.clash = true;
    x.saving.status("Not saved", "bad");
    note.hidden = false;
    note.replaceChildren(
      el("span", {}, "You changed this template in another window since. What stands here is kept on this computer. "),
      el("button", { class: "btn", type: "button", onclick: () => location.reload() }, "Load the other one"),
    );
    x.refresh();
  };
  for (const go of document.querySelectorAll("[data-after-save]"))
    go.addEventListener("click", (e) => afterSave(x, e, go));
  return { mine: () => x.data.mine, draw() {}, have() {}, lost() {}, goOn() {} };
}

// afterSave goes where a link leads once everything typed is saved.
async function afterSave(x, e, go) {
  e.preventDefault();
  await x.saving.save();
  await x.saving.save();
  if (x.saving.state.dirty || x.saving.state.failed) return say("This is not saved yet. Try again in a moment.", true);
  location.assign(go.href);
}
