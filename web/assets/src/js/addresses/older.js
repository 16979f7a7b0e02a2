// The older site, worked through by single keys: each presses what says so with data-key.
import { planChanged } from "../shared/shelf.js";

// One listener for all that is drawn, so that no key is lost while a piece is exchanged.
document.addEventListener("keydown", (e) => {
  if (!document.getElementById("older") || e.ctrlKey || e.metaKey || e.altKey) return;
  if (e.target.closest("input, textarea, select, summary, dialog")) return;
  if (e.key === "Enter" && e.target.closest("a, button")) return;
  if (e.key === "p") {
    e.preventDefault();
    return document.getElementById("ol-else")?.focus();
  }
  const at = document.querySelector(`[data-key="${CSS.escape(e.key === "Enter" ? "1" : e.key)}"]`);
  if (!at) return;
  e.preventDefault();
  at.click();
});

export function startOlder(root) {
  root.querySelector("tr.here")?.scrollIntoView({ block: "nearest" });
  if (root.querySelector("[role=status]")) planChanged();
}
