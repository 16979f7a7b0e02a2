// The widths at which a page is looked at while it is written: a phone, a tablet, a desk.
export function makeWidths() {
  const stage = document.getElementById("stage"),
    buttons = [...document.querySelectorAll("#widths button")];
  const choose = (b) => {
    for (const o of buttons) o.setAttribute("aria-pressed", String(o === b));
    stage.dataset.width = b.dataset.width;
  };
  for (const b of buttons) b.addEventListener("click", () => choose(b));
}
