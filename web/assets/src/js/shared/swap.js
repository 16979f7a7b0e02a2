// Putting a piece that the server drew into the page. htmx does it, as for every other piece; whoever stands on a link,
// a button or a field of the piece stands on it afterwards, too.
import htmx from "htmx.org";

export function swap(box, html) {
  const at = document.activeElement,
    within = box.contains(at) && sign(at);
  htmx.swap(box, html, { swapStyle: "innerHTML", swapDelay: 0, settleDelay: 0 });
  if (within)
    [...box.querySelectorAll("a, button, input, select, textarea, summary")]
      .find((e) => sign(e) === within)
      ?.focus({ preventScroll: true });
}

// sign is what a link, a button or a field is known by after it was drawn again.
const sign = (e) => e.id || e.getAttribute("href") || e.textContent;
