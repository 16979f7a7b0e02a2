// The calendar: what has a minute, or all of a minute, is dragged to another day and keeps its time of day. The forms in
// it and below do the same by keyboard.
import { el, say } from "../shared/say.js";

export function startCalendar(root) {
  const zone = document.querySelector("[data-guess-zone]");
  if (zone) guess(zone);
  if (root.dataset.may === undefined) return;
  let dragged = null;
  root.addEventListener("dragstart", (e) => {
    dragged = e.target.closest?.(".cal-item, .cal-all");
    if (!dragged) return;
    e.dataTransfer.effectAllowed = "move";
    e.dataTransfer.setData("text/plain", dragged.innerText);
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
    all = item.matches(".cal-all") ? [...item.parentElement.querySelectorAll(".cal-item")] : [item];
  for (const { dataset } of all) {
    if (dataset.leaves) form.append(hidden("leaves", dataset.id));
    else form.append(hidden("id", dataset.id), hidden("stamp:" + dataset.id, dataset.stamp));
  }
  form.elements.at.value = `${day}T${all[0].dataset.clock}`;
  say("Moving it …");
  form.submit();
}

const hidden = (name, value) => el("input", { type: "hidden", name, value });

// guess asks for the clocks of this computer, where nobody said which.
function guess(form) {
  const here = Intl.DateTimeFormat().resolvedOptions().timeZone,
    field = form.elements.zone;
  if (!here || field.value === here) return;
  field.value = here;
  form.submit();
}
