import htmx from "htmx.org";
import { say, el } from "./shared/say.js";
import { chips } from "./shared/chips.js";
import { spellDates } from "./shared/dates.js";
import { startTicks } from "./shared/ticks.js";
import { startLive } from "./shared/live.js";
import { suggest } from "./shared/suggest.js";
import { startOutline } from "./sitemap/outline/outline.js";
import { startMap } from "./sitemap/map/map.js";
import { startMenus } from "./navigation/menus.js";
import { startTrail } from "./navigation/trail.js";
import { startQuotes } from "./editions/quotes.js";
import { startCalendar } from "./editions/calendar.js";
import { startOlder } from "./addresses/older.js";

window.htmx = htmx;

// Whatever a screen needs once it is in the page.
function begin(root) {
  const outline = root.querySelector("#outline");
  if (outline && !outline.dataset.started) {
    outline.dataset.started = "1";
    startOutline(outline);
  }
  const map = root.querySelector("#map");
  if (map && !map.dataset.started) {
    map.dataset.started = "1";
    startMap(map);
  }
  for (const [id, start] of [
    ["menu-edit", startMenus],
    ["trail-edit", startTrail],
    ["older", startOlder],
    ["calendar", startCalendar],
  ]) {
    const at = root.querySelector("#" + id);
    if (at && !at.dataset.started) {
      at.dataset.started = "1";
      start(at);
    }
  }
  for (const zone of root.querySelectorAll("[data-zone]"))
    zone.value ||= Intl.DateTimeFormat().resolvedOptions().timeZone;
  root.querySelector(".things .here")?.scrollIntoView({ block: "nearest" });
  const editor = root.querySelector("#editor");
  if (editor && !document.querySelector("script[data-editor-script]")) {
    document.head.append(el("script", { src: editor.dataset.editor, "data-editor-script": true }));
  }
  for (const input of root.querySelectorAll("[data-find-page][data-into]")) {
    const hidden = input.form.elements[input.dataset.into];
    input.addEventListener("input", () => {
      hidden.value = "";
    });
    suggest(
      input,
      "/studio/find",
      () => ({ only: "page", not: input.dataset.not || "" }),
      (item) => {
        hidden.value = item.id;
        input.value = item.title;
      },
    );
  }
  for (const field of root.querySelectorAll("form [data-chips]")) chips(field);
  startTicks(root);
  startQuotes(root);
  spellDates(root);
  for (const field of root.querySelectorAll("[data-submit]"))
    field.addEventListener("change", () => field.form.requestSubmit());
  for (const time of root.querySelectorAll("time[datetime]")) local(time);
}

// Times in the viewer's own zone.
function local(time) {
  const at = new Date(time.getAttribute("datetime"));
  if (isNaN(at) || !time.getAttribute("datetime").includes("T")) return;
  time.textContent = at.toLocaleString("en-GB", {
    day: "numeric",
    month: "short",
    year: "numeric",
    hour: "2-digit",
    minute: "2-digit",
  });
}

document.addEventListener("DOMContentLoaded", () => {
  begin(document);
  if (document.body.dataset.person) startLive(document.body);
  const find = document.getElementById("find");
  if (find)
    suggest(
      find,
      "/studio/find",
      () => ({}),
      (item) => {
        location.href = item.url;
      },
    );
});
document.addEventListener("htmx:load", (e) => begin(e.detail.elt));

// A form that acts is sent once, however often its button is pressed.
document.addEventListener("submit", (e) => {
  const form = e.target;
  if (form.dataset.ask && !confirm(form.dataset.ask)) return e.preventDefault();
  if (form.dataset.once === undefined) return;
  if (form.dataset.sent) return e.preventDefault();
  form.dataset.sent = "1";
  setTimeout(() => delete form.dataset.sent, 8000);
});
addEventListener("pageshow", () => document.querySelectorAll("form[data-sent]").forEach((f) => delete f.dataset.sent));

document.addEventListener("htmx:sendError", () => say("The server does not answer. Trying again when you do.", true));
document.addEventListener("htmx:responseError", (e) => say("This did not work (" + e.detail.xhr.status + ").", true));

const general = [
  ["?", "this list"],
  ["/", "find a page"],
];
export function showKeys(more) {
  const list = document.getElementById("keys-list");
  list.replaceChildren(
    el(
      "dl",
      {},
      ...[...(more || []), ...general].flatMap(([k, what]) => [
        el("dt", {}, ...k.split(" ").map((one) => el("kbd", {}, one))),
        el("dd", {}, what),
      ]),
    ),
  );
  document.getElementById("keys").showModal();
}
document.addEventListener("keydown", (e) => {
  if (e.target.closest("input, textarea, select, [contenteditable], dialog") || e.ctrlKey || e.metaKey || e.altKey)
    return;
  if (e.key === "/") {
    e.preventDefault();
    document.getElementById("find")?.focus();
  } else if (e.key === "?" && !document.querySelector("#outline, #map, #menu-edit")) showKeys();
});
document.addEventListener("keydown", (e) => {
  const open = e.key === "Escape" && document.querySelector("#shelf details[open], .person[open]");
  if (open) {
    open.open = false;
    open.querySelector("summary").focus();
  }
});
document.addEventListener("show-keys", (e) => showKeys(e.detail));
