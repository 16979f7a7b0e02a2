// The kinds of blocks that the page editor knows, in the order in which it offers them. A kind says what it is called,
// what an empty one is, and how it is drawn into its box: draw(ed, block, box), where ed is what the editor knows and
// box has the head with its buttons, the body, redraw() of the slot it stands in, and dress() for its look. words() is
// its text where two versions are compared, if that is not text.
import { noteBlock } from "./block_note.js";
import { textBlock } from "./block_text.js";
import { tilesBlock } from "./block_tiles.js";

export const blockKinds = { text: textBlock, tiles: tilesBlock, note: noteBlock };

const pageLinks = /\]\(page:[^)]*\)/g;

// wordsOf gives the text of a block as it is compared.
export const wordsOf = (b) => blockKinds[b.type]?.words?.(b) ?? (b.text || "").replace(pageLinks, "]");
