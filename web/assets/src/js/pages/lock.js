// The lock: one window writes, others read. A window that was reloaded goes on where it was: its tab had the page open
// before, and no other window answers for it. A tab that was doubled finds the first one alive, and reads.
import { el, post, say } from "../shared/say.js";
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
  note.hidden = now.mine || x.clash || l.waiting;
  if (note.hidden) return;
  const since = now.since
    ? " since " + new Date(now.since).toLocaleTimeString("en-GB", { hour: "2-digit", minute: "2-digit" })
    : "";
  const who = now.self ? "You have this page open in another window" : `${now.holder || "Somebody"} has this page open`;
  note.replaceChildren(
    el("span", {}, `${who}${since}. You can read it here.`),
    el(
      "button",
      { class: "btn", type: "button", onclick: () => takeOver(l) },
      now.self ? "Write here instead" : "Take over",
    ),
  );
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
