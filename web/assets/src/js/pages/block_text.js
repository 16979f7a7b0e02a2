// A text in the page editor.
import { el } from "../shared/say.js";
import { makeText } from "./richtext.js";

export const textBlock = {
  name: "Text",
  empty: () => ({ type: "text", text: "" }),
  draw: (ed, b, box) => writeIn(ed, b, box, textBlock.name),
};

// writeIn puts an editor for the text of a block into its box.
export function writeIn(ed, b, box, label) {
  const text = makeText({
    text: b.text,
    label,
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
