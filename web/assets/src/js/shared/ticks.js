// Boxes in a list: Shift ticks a run, and one box ticks all.
export function startTicks(root) {
  for (const all of root.querySelectorAll("[data-tick-all]")) {
    const boxes = () => [...all.form.elements].filter((e) => e.type === "checkbox" && e.name === all.dataset.tickAll);
    all.addEventListener("change", () => boxes().forEach((box) => (box.checked = all.checked)));
    let last = null;
    all.closest("main").addEventListener("click", (e) => {
      const list = boxes();
      const at = list.indexOf(e.target);
      if (at < 0) return;
      if (e.shiftKey && last !== null)
        for (let i = Math.min(at, last); i <= Math.max(at, last); i++) list[i].checked = e.target.checked;
      last = at;
    });
  }
}
