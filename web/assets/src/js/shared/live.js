// What others do, as it happens, as long as the window is looked at: over one connection for all windows of a browser, which a
// worker holds, or one a window where there are no such workers. What comes is told as events
// of the page, so that whatever stands there takes what it needs:
//   live-plan  something is planned or published   live-here  who is here   live-lock  a lock changed, of an entry
// Where the window is, others are told: here-at says it.
import { el, key } from "./say.js";
import { planChanged } from "./shelf.js";

const closeAfter = 15000; // a window that is not looked at is still here for a while

export function startLive(body) {
  const l = {
    window: key(),
    person: body.dataset.person,
    screen: screenOf(location.pathname),
    entry: "",
    stream: null, // with close() and tell(where)
    worker: body.dataset.live,
    leaving: 0,
    telling: 0,
    own: 0, // when this window itself changed something last
    plan: "",
    writing: new Map(), // who has which page open for writing
  };
  window.addEventListener("facts-shown", () => markLinks(l));
  document.addEventListener("htmx:load", () => markLinks(l));
  window.addEventListener("here-at", (e) => moved(l, e.detail));
  document.addEventListener("visibilitychange", () => seen(l));
  document.addEventListener("htmx:afterRequest", (e) => {
    if (e.detail.requestConfig?.verb !== "get") l.own = Date.now();
  });
  window.addEventListener("pagehide", () => leave(l));
  window.addEventListener("pageshow", (e) => e.persisted && connect(l));
  setTimeout(() => seen(l)); // once the screen has said where it is
}

const screenOf = (path) =>
  /^\/studio\/pages\/[^/]+$/.test(path) ? "page" : (path.split("/")[2] || "").replace(/[^a-z-]/g, "").slice(0, 20);

function seen(l) {
  clearTimeout(l.leaving);
  if (!document.hidden) connect(l);
  else l.leaving = setTimeout(() => leave(l), closeAfter);
}

function connect(l) {
  if (l.stream) return;
  l.stream = (l.worker && shared(l)) || alone(l);
}

const at = (l) => ({ window: l.window, screen: l.screen, entry: l.entry });

const events = {
  plan: (l, data) => plan(l, data),
  here: (l, data) => drawHere(l, JSON.parse(data)),
  lock: (l, data) => tell("live-lock", JSON.parse(data)),
};

const beatEvery = 10000;

// shared listens to the worker that holds the connection of this browser; null where there can be none.
function shared(l) {
  let worker;
  try {
    worker = new SharedWorker(l.worker, { name: "live of " + l.person });
  } catch {
    return null; // no such workers here
  }
  const say = (m) => worker.port.postMessage(m);
  worker.port.onmessage = (e) => events[e.data.event](l, e.data.data);
  worker.onerror = () => {
    l.worker = ""; // it could not be loaded
    leave(l);
    connect(l);
  };
  say({ at: at(l) });
  const beat = setInterval(() => say({ beat: true }), beatEvery);
  return {
    tell: (where) => say({ at: where }),
    close() {
      clearInterval(beat);
      say({ leave: true });
      worker.port.close();
    },
  };
}

// alone is a connection of this window.
function alone(l) {
  const stream = new EventSource("/studio/live?" + new URLSearchParams(at(l)));
  for (const [event, f] of Object.entries(events)) stream.addEventListener(event, (e) => f(l, e.data));
  stream.onerror = () => {
    if (stream.readyState !== EventSource.CLOSED) return; // it tries again by itself
    leave(l);
    l.leaving = setTimeout(() => seen(l), 30000);
  };
  return {
    tell: (where) =>
      fetch("/studio/live/at", {
        method: "POST",
        headers: { "Content-Type": "application/json" },
        body: JSON.stringify({ windows: [where] }),
      }).catch(() => {}), // the next move tells
    close: () => stream.close(),
  };
}

function leave(l) {
  l.stream?.close();
  l.stream = null;
}

const tell = (name, detail) => window.dispatchEvent(new CustomEvent(name, { detail }));

function plan(l, text) {
  const first = !l.plan,
    changed = l.plan !== text;
  l.plan = text;
  if (first || !changed) return;
  tell("live-plan", JSON.parse(text));
  if (!document.querySelector("#outline, #map")) planChanged(); // these tell the shelf themselves
  const main = document.querySelector("[data-fresh]");
  if (main && Date.now() - l.own > 3000 && !document.getElementById("fresh"))
    main.before(
      el(
        "p",
        { class: "banner", id: "fresh", role: "status" },
        "Somebody changed the plan meanwhile. ",
        el("a", { href: location.href }, "Show it as it is now"),
      ),
    );
}

// moved tells others where this window is, once it stays there.
function moved(l, to) {
  if (to.entry === l.entry) return;
  l.entry = to.entry;
  clearTimeout(l.telling);
  if (!l.stream) return;
  l.telling = setTimeout(() => l.stream?.tell(at(l)), 400);
}

const initials = (name) =>
  name
    .split(/\s+/)
    .map((w) => w[0])
    .join("")
    .slice(0, 2)
    .toUpperCase();

const where = {
  sitemap: "in the sitemap",
  page: "on a page",
  menus: "in the menus",
  edition: "at the edition",
  addresses: "at the addresses",
};

export const clock = (iso) => new Date(iso).toLocaleTimeString("en-GB", { hour: "2-digit", minute: "2-digit" });

// drawHere shows who else is here: all of them in the sitemap, and those on the same page in the editor.
function drawHere(l, all) {
  const others = all.filter((h) => h.window !== l.window && h.person !== l.person);
  tell("live-here", others);
  l.writing = Map.groupBy(
    others.filter((h) => h.writes),
    (h) => h.entry,
  );
  markLinks(l);
  const list = document.getElementById("here");
  if (!list) return;
  const near = l.screen === "page" ? others.filter((h) => h.entry === l.entry) : others;
  const people = new Map();
  for (const h of near) if (!people.has(h.person) || h.writes) people.set(h.person, h);
  list.hidden = !people.size;
  list.replaceChildren(
    el("span", { class: "quiet small" }, l.screen === "page" ? "Also on this page" : "Also here"),
    ...[...people.values()].slice(0, 8).map((h) => badge(h, l.screen)),
    people.size > 8 ? el("span", { class: "small" }, `and ${people.size - 8} more`) : "",
  );
}

// markLinks says at links to pages who has them open for writing.
function markLinks(l) {
  for (const old of document.querySelectorAll(".writing-there")) old.remove();
  for (const a of document.querySelectorAll('main a[href^="/studio/pages/"]')) {
    const there = l.writing.get(a.getAttribute("href").slice("/studio/pages/".length));
    if (there) a.after(el("span", { class: "writing-there" }, ...marksOf(there)));
  }
}

function badge(h, screen) {
  const words =
    h.writes && screen === "page"
      ? `${h.name}, writing since ${clock(h.since)}`
      : `${h.name}, ${where[h.screen] || "in the studio"} since ${clock(h.since)}`;
  return el(
    "span",
    { class: "here-badge" + (h.writes ? " writes" : ""), role: "img", "aria-label": words, title: words },
    initials(h.name),
  );
}

// marksOf gives the badges of those who are at an entry.
export const marksOf = (list) =>
  list.map((h) => {
    const words = h.writes ? `${h.name} has it open for writing since ${clock(h.since)}` : `${h.name} is here`;
    return el(
      "span",
      { class: "here-badge" + (h.writes ? " writes" : ""), role: "img", "aria-label": words, title: words },
      initials(h.name),
    );
  });
