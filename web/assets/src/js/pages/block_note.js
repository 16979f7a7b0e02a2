// A note box in the page editor: a text with a tone.
import { el } from "../shared/say.js";
import { writeIn } from "./block_text.js";

const tones = ["plain", "tip", "warning"];

export const block = {
  empty: () => ({ type: "note", tone: "plain", text: "" }),
  look: (b) => b.tone || "",
  draw(ed, b, box) {
    writeIn(ed, b, box);
    const choose = (e) => {
      b.tone = e.target.value;
      box.dress();
      ed.changed();
    };
    box.head.append(
      el(
        "label",
        { class: "small" },
        "Tone ",
        el(
          "select",
          { class: "tool", "aria-label": "Tone of the note", onchange: choose },
          ...tones.map((t) => el("option", { value: t, selected: t === b.tone }, t)),
        ),
      ),
    );
  },
};
