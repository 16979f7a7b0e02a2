// Copying a block: to the clipboard of this computer, or straight to another page.
import { el, key, post, say } from "../shared/say.js";
import { suggest } from "../shared/suggest.js";
import { removeBlock, selectBlock } from "./blocks.js";
import { typeOf } from "./schema.js";

// copyBlock puts a block on the clipboard as ProseMirror does it, so that it can be pasted into any page and any window.
export function copyBlock(x, pos, cut) {
  const { view } = x,
    name = x.kinds[typeOf(view.state.doc.nodeAt(pos))].name;
  view.dispatch(selectBlock(view.state, pos, true));
  view.focus();
  const done = document.execCommand("copy"); // of what is selected; the only way that keeps the slice
  if (done && cut) view.dispatch(removeBlock(view.state, pos));
  say(
    done
      ? `${name} ${cut ? "cut" : "copied"}. Paste it where you want it.`
      : "The clipboard could not be used. Press Ctrl + C.",
    !done,
  );
}

// askWhereTo asks for the page that gets a copy of the block.
export function askWhereTo(x, anchor, pos) {
  const block = x.pages.block(x.view.state.doc.nodeAt(pos)),
    act = key(); // pressed twice, it is one copy
  const field = el("input", {
    class: "in",
    type: "search",
    "aria-label": "Page that gets a copy",
    placeholder: "a page",
    autocomplete: "off",
  });
  const dialog = el(
    "dialog",
    { class: "ask-page", "aria-label": "Copy to another page" },
    el("h2", {}, "Copy to another page"),
    el(
      "p",
      { class: "small quiet" },
      "The copy is added at the end of the first slot that takes it, as an edit of that page.",
    ),
    field,
    el("p", { class: "acts" }, el("button", { type: "button", class: "btn", onclick: () => dialog.close() }, "Cancel")),
  );
  dialog.addEventListener("close", () => {
    dialog.remove();
    anchor.focus();
  });
  anchor.closest("aside, main").append(dialog);
  dialog.show();
  suggest(
    field,
    x.data.find,
    () => ({ only: "page" }),
    async (item) => {
      dialog.close();
      try {
        await post(x.data.copyTo, { key: act, to: item.id, block });
        say(`Copied to “${item.title}”.`);
      } catch (problem) {
        say(problem.message, true);
      }
    },
  );
  field.focus();
}
