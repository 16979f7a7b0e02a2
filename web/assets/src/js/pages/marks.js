// In the margin of the page editor a line marks what differs from Live; a press shows the words.
import { el, key, post } from "../shared/say.js";

const words = {
  came: "New since Live",
  changed: "Changed since Live",
  moved: "Moved since Live",
};

export const marked = (runs) =>
  runs.map((r) => (r.kind === "same" ? r.text : el(r.kind === "gone" ? "del" : "ins", {}, r.text)));

// A block keeps its id wherever it goes; new ones get theirs here.
export const identified = (block) => ({ ...block, id: key() });

// marksOf gives look, which asks how the page differs from Live and marks its blocks, and again, which marks them as it
// was told last, where they were drawn anew. Answers that are older than what is asked are dropped.
export function marksOf(root, url, page) {
  let asked = 0,
    told = [];
  const open = new Set(); // blocks whose words are shown
  const again = () => show(root, told, open);
  async function look() {
    if (!url) return;
    const mine = ++asked;
    try {
      const { changes } = await post(url, { content: page });
      if (mine !== asked) return;
      told = changes;
      again();
    } catch {
      /* the next save asks again */
    }
  }
  return { look, again };
}

function show(root, changes, open) {
  const of = new Map(changes.map((c) => [c.id, c]));
  for (const block of root.querySelectorAll(".block")) {
    const c = of.get(block.dataset.block);
    block.querySelector(":scope > .since")?.remove();
    block.classList.toggle("is-changed", !!c);
    if (c) block.append(since(block.dataset.block, words[c.what], c, open));
  }
  for (const slot of root.querySelectorAll("[data-slot]")) {
    slot.querySelector(":scope > .since-gone")?.remove();
    const gone = changes.filter((c) => c.what === "went" && c.slot === slot.dataset.slot);
    if (gone.length) slot.append(removed(slot.dataset.slot, gone, open));
  }
}

function since(id, title, c, open) {
  return unfolding({ class: "since" }, "b " + id, title, open, el("p", { class: "since-words" }, ...marked(c.runs)));
}

function removed(slot, gone, open) {
  const title = gone.length === 1 ? "1 block removed since Live" : `${gone.length} blocks removed since Live`;
  const parts = gone.map((c) => el("p", { class: "since-words" }, ...marked(c.runs)));
  return unfolding({ class: "since since-gone" }, "s " + slot, title, open, ...parts);
}

// What was unfolded stays so while one writes on.
function unfolding(attributes, name, title, open, ...parts) {
  const box = el("details", attributes, el("summary", {}, title), ...parts);
  box.open = open.has(name);
  box.addEventListener("toggle", () => open[box.open ? "add" : "delete"](name));
  return box;
}
