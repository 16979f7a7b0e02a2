// Two people changed the same: both values are shown, and one of them stays.
import { el } from "./say.js";

const words = (v) => (v === "" ? "nothing" : `“${v}”`);

export function bothNote(both, keepMine, keepTheirs) {
  const button = (label, keep) =>
    el(
      "button",
      {
        class: "btn",
        type: "button",
        onclick: () => {
          note.remove();
          keep();
        },
      },
      label,
    );
  const note = el(
    "p",
    { class: "both-values" },
    `${both.who} wrote ${words(both.theirs)}, you wrote ${words(both.mine)}. `,
    button("Keep mine", keepMine),
    " ",
    button("Keep theirs", keepTheirs),
  );
  return note;
}
