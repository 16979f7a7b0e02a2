// The older site, worked through by single keys: each presses what says so with data-key.
import { planChanged } from "../shared/shelf.js";

export function startOlder(root) {
  const act = (key) => document.querySelector(`[data-key="${key === "Enter" ? "1" : key}"]`);
  const press = (e) => {
    if (!root.isConnected) return document.removeEventListener("keydown", press);
    if (e.ctrlKey || e.metaKey || e.altKey || e.target.closest("input, textarea, select, summary, dialog")) return;
    if (e.key === "Enter" && e.target.closest("a, button")) return;
    if (e.key === "p") {
      e.preventDefault();
      return document.getElementById("ol-else")?.focus();
    }
    const at = act(e.key);
    if (!at) return;
    e.preventDefault();
    at.click();
  };
  document.addEventListener("keydown", press);
  const here = root.querySelector("tr.here");
  here?.scrollIntoView({ block: "nearest" });
  if (root.querySelector("[role=status]")) planChanged();
}
