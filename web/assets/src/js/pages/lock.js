// The lock: one window writes, others read. A window that was reloaded goes on where it was: its tab had the page open
// before, and no other window answers for it. A tab that was doubled finds the first one alive, and reads.
import { el, post, say } from "../shared/say.js";
import { clock } from "../shared/live.js";
import { restore } from "./clash.js";

export function makeLock(x) {
  const { data } = x,
    tab = `candlepath:window:${data.entry}`,
    before = sessionStorage.getItem(tab),
    line = new BroadcastChannel("candlepath:windows");
  const l = { x, now: data.lock, waiting: !data.lock.mine && data.lock.self && !!before, beating: 0 }; // waiting: for what this tab had before
  line.onmessage = (e) => {
    if (e.data.ask === data.window && !x.saving.state.leaving) line.postMessage({ alive: data.window });
  };
  sessionStorage.setItem(tab, data.window);
  setTimeout(() => {
    l.waiting = false;
    draw(l);
  }, 1500);
  l.beating = setTimeout(() => beat(l), 12000);
  window.addEventListener("live-lock", (e) => e.detail === data.entry && beat(l));
  window.dispatchEvent(new CustomEvent("here-at", { detail: { entry: data.entry } }));
  return {
    mine: () => l.now.mine,
    draw: () => draw(l),
    have: (lock) => (l.now = lock),
    lost: (holder) => (l.now = { ...l.now, mine: false, holder }),
    goOn: () => goOn(l, before),
  };
}

function draw(l) {
  const { now, x } = l,
    note = document.getElementById("lock-note");
  document.getElementById("give-up")?.toggleAttribute("hidden", !now.mine || x.clash);
  note.hidden = (now.mine && !now.asked) || x.clash || l.waiting;
  if (note.hidden) return;
  note.replaceChildren(...(now.mine ? asked(l) : held(l)));
}

const button = (words, onclick, more = {}) => el("button", { class: "btn", type: "button", onclick, ...more }, words);

// held says who has the page, and offers to ask for it or to take it.
function held(l) {
  const { now } = l,
    since = now.since ? ` since ${clock(now.since)}` : "",
    who = now.self ? "You have this page open in another window" : `${now.holder || "Somebody"} has this page open`,
    first = (now.holder || "").split(" ")[0] || "them";
  if (now.self)
    return [el("span", {}, `${who}${since}. You can read it here.`), button("Write here instead", () => takeOver(l))];
  const words = now.waiting
    ? `${first} has been asked. You get the page as soon as they hand it over.`
    : now.declined
      ? `${first} is still writing and will hand it over later.`
      : "You can read it here.";
  return [
    el("span", {}, `${who}${since}. ${words}`),
    ...(now.waiting || now.declined ? [] : [button(`Ask ${first} for it`, () => question(l))]),
    button("Take over", () => takeOver(l)),
  ];
}

// asked says who would like to write here.
const asked = (l) => [
  el("span", {}, `${l.now.asked} would like to write on this page.`),
  button("Save and hand it over", () => answer(l, "yes")),
  button("Not now", () => answer(l, "no")),
];

async function question(l) {
  try {
    become(l, await ask(l, { ask: true, reading: true }));
  } catch (problem) {
    say(problem.message, true);
  }
  draw(l);
}

// answer saves what stands here before the page is handed over.
async function answer(l, word) {
  const { x } = l;
  try {
    if (word === "yes") await x.saving.save();
    if (x.clash || (word === "yes" && x.saving.state.dirty))
      return say("It is not saved yet, so it was not handed over.", true);
    l.now = await ask(l, { answer: word, reading: word === "yes" });
    x.refresh();
    draw(l);
  } catch (problem) {
    say(problem.message, true);
  }
}

const ask = (l, more) => post(l.x.data.lockUrl, { window: l.x.data.window, ...more });

async function takeOver(l) {
  try {
    become(l, await ask(l, { force: true, reading: true }));
  } catch (problem) {
    say(problem.message, true);
  }
}

// become takes up what the server says of the lock. A window that gets it begins from the newest text, and from what this
// computer still holds.
function become(l, lock) {
  const { x } = l;
  l.now = lock;
  if (lock.mine && lock.content) {
    x.saving.state.base = lock.base || 0;
    x.saving.state.dirty = false;
    x.show(lock.content);
    restore(x);
  }
  x.refresh();
}

async function beat(l) {
  clearTimeout(l.beating);
  const { x } = l;
  try {
    const was = l.now.mine,
      lock = await ask(l, { reading: !was });
    if (was && !lock.mine && x.saving.state.dirty) {
      l.now = lock;
      await x.saving.save(); // meets the other text; both are kept
    }
    if (!x.clash && lock.mine !== was) become(l, lock);
    else l.now = lock;
    draw(l);
  } catch {
    /* the next beat tells */
  }
  l.beating = setTimeout(() => beat(l), 12000);
}

async function goOn(l, before) {
  if (l.now.mine || !l.now.self || !before || (await answers(before))) return;
  try {
    const lock = await ask(l, { was: before, reading: true });
    if (lock.mine) become(l, lock);
  } catch {
    /* the next beat tells */
  }
}

const answers = (window) =>
  new Promise((done) => {
    const ear = new BroadcastChannel("candlepath:windows");
    const end = (alive) => {
      ear.close();
      done(alive);
    };
    ear.onmessage = (e) => {
      if (e.data.alive === window) end(true);
    };
    ear.postMessage({ ask: window });
    setTimeout(() => end(false), 200);
  });
