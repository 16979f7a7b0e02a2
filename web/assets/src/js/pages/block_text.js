// A text in the page editor.
import { el } from "../shared/say.js";
import { makeText } from "./richtext.js";

export const block = {
  empty: () => ({ type: "text", text: "" }),
  draw: writeIn,
};

// writeIn puts an editor for the text of a block into its box.
export function writeIn(ed, b, box) {
  const text = makeText({
    text: b.text,
    label: box.name,
    findURL: ed.findURL,
    hosts: ed.hosts,
    editable: ed.editable,
    changed: (t) => {
      b.text = t;
      ed.changed();
    },
  });
  ed.editors.add(text);
  box.head.append(text.bar, el("span", { class: "gap" }));
  box.body.append(text.place);
}
