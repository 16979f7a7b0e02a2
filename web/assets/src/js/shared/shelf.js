// The shelf and the stops of the path: htmx brings them again after each change,
// and they come back as they stood.
let open = false,
  focused = "";

// planChanged tells the shelf that what is planned is not what it was.
export function planChanged() {
  document.body.dispatchEvent(new CustomEvent("plan-changed"));
}

const ours = (e) => e.detail.target?.id === "shelf" || e.detail.target?.id === "stops";
const sign = (e) => e.getAttribute("href") || e.textContent;

document.addEventListener("htmx:oobBeforeSwap", (e) => {
  if (!ours(e)) return;
  const at = e.detail.target.contains(document.activeElement) ? document.activeElement : null;
  if (e.detail.target.id === "shelf") open = !!e.detail.target.querySelector("details")?.open;
  focused = at ? sign(at) : "";
});
document.addEventListener("htmx:oobAfterSwap", (e) => {
  if (!ours(e)) return;
  const now = document.getElementById(e.detail.target.id);
  if (now.id === "shelf") now.querySelector("details")?.toggleAttribute("open", open);
  if (focused)
    [...now.querySelectorAll("a, summary")].find((link) => sign(link) === focused)?.focus({ preventScroll: true });
});
