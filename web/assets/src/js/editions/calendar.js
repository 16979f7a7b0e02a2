// The calendar: what has a minute is dragged to another day and keeps its time of day. The table below does the same by
// keyboard.
import { say } from "../shared/say.js";

export function startCalendar(root) {
  const zone = document.querySelector("[data-guess-zone]");
  if (zone) guess(zone);
  if (root.dataset.may === undefined) return;
  let dragged = null;
  root.addEventListener("dragstart", (e) => {
    dragged = e.target.closest?.(".cal-item");
    if (!dragged) return;
    e.dataTransfer.effectAllowed = "move";
    e.dataTransfer.setData("text/plain", dragged.dataset.id);
    dragged.classList.add("dragged");
  });
  root.addEventListener("dragend", () => {
    dragged?.classList.remove("dragged");
    mark(root, null);
    dragged = null;
  });
  root.addEventListener("dragover", (e) => {
    const day = dragged && e.target.closest(".cal-day");
    if (!day) return;
    e.preventDefault();
    mark(root, day);
  });
  root.addEventListener("drop", (e) => {
    const day = dragged && e.target.closest(".cal-day");
    if (!day) return;
    e.preventDefault();
    if (day !== dragged.closest(".cal-day")) move(dragged, day.dataset.day);
  });
}

function mark(root, day) {
  for (const d of root.querySelectorAll(".cal-day.over")) d.classList.toggle("over", d === day);
  day?.classList.add("over");
}

function move(item, day) {
  const form = document.getElementById("move"),
    { id, stamp, leaves, clock } = item.dataset;
  Object.entries({ id, stamp, leaves, at: `${day}T${clock}` }).forEach(([name, value]) => {
    form.elements[name].value = value;
  });
  say("Moving it …");
  form.submit();
}

// guess asks for the clocks of this computer, where nobody said which.
function guess(form) {
  const here = Intl.DateTimeFormat().resolvedOptions().timeZone,
    field = form.elements.zone;
  if (!here || field.value === here) return;
  field.value = here;
  form.submit();
}
