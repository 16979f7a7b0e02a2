// Words that were selected in a block are what a remark on it is about.
let last = { block: null, words: "" };

document.addEventListener("selectionchange", () => {
  const selection = getSelection(),
    words = selection.toString().trim(),
    node = selection.anchorNode,
    block = (node?.nodeType === 1 ? node : node?.parentElement)?.closest(".review-block");
  if (words && block?.querySelector(".as-written")?.contains(selection.focusNode)) last = { block, words };
});

export function startQuotes(root) {
  for (const field of root.querySelectorAll("[data-quote]"))
    field.closest("details").addEventListener("toggle", (e) => {
      if (e.target.open && !field.value && last.block === field.closest(".review-block"))
        field.value = last.words.slice(0, field.maxLength);
    });
}
