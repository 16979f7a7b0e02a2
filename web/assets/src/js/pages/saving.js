// Saving: every change goes to this computer first, then by itself to the server, so that neither a closed tab nor a cut
// connection loses a sentence.
import { post } from "../shared/say.js";

export function makeSaving(x) {
  const s = {
    x,
    store: `candlepath:draft:${x.data.person}:${x.data.entry}`,
    line: document.getElementById("saved"),
    base: x.data.base,
    dirty: false,
    failed: 0,
    leaving: false,
    now: null, // a save that is under way
    timer: 0,
    kept: 0,
  };
  addEventListener("online", () => {
    s.failed = 0;
    save(s);
  });
  leaving(s);
  return {
    state: s,
    changed: () => changed(s),
    save: () => save(s),
    status: (words, cls) => status(s, words, cls),
    forgetHere: () => forgetHere(s),
    here: () => here(s.store),
    settled() {
      s.dirty = false;
      forgetHere(s);
      status(s, "Saved");
    },
  };
}

function status(s, words, cls = "") {
  s.line.textContent = words;
  s.line.className = "saved " + cls;
}

// What is typed is kept here after a moment, and at once when the page is left.
function keepHere(s) {
  clearTimeout(s.kept);
  s.kept = 0;
  try {
    localStorage.setItem(s.store, JSON.stringify({ base: s.base, at: Date.now(), page: s.x.page() }));
  } catch {
    /* the server still gets it */
  }
}

function forgetHere(s) {
  clearTimeout(s.kept);
  s.kept = 0;
  try {
    localStorage.removeItem(s.store);
  } catch {
    /* nothing kept */
  }
}

function changed(s) {
  s.dirty = true;
  s.kept ||= setTimeout(() => keepHere(s), 100);
  status(s, "Saving …", "busy");
  clearTimeout(s.timer);
  s.timer = setTimeout(() => save(s), 700);
}

function save(s) {
  if (s.now || !s.dirty || s.x.clash || s.leaving) return s.now;
  s.dirty = false;
  s.now = send(s).finally(() => {
    s.now = null;
    if (s.dirty && !s.failed) s.timer = setTimeout(() => save(s), 300);
  });
  return s.now;
}

async function send(s) {
  const { x } = s;
  try {
    const answer = await post(x.data.save, { window: x.data.window, base: s.base, content: x.page() });
    s.base = answer.version;
    s.failed = 0;
    x.take(answer);
    if (s.dirty) return keepHere(s);
    forgetHere(s);
    status(s, "Saved");
    x.marks.look();
  } catch (problem) {
    if (problem.status === 409) return x.met(problem.body);
    notSaved(s, problem);
  }
}

function notSaved(s, problem) {
  s.dirty = true;
  s.failed++;
  const refused = problem.status && problem.status < 500;
  status(
    s,
    refused
      ? problem.message
      : "Not connected. Your text is kept on this computer and saved as soon as the server answers.",
    "bad",
  );
  clearTimeout(s.timer);
  s.timer = setTimeout(() => save(s), Math.min(1000 * 2 ** s.failed, 15000));
}

function here(store) {
  try {
    return JSON.parse(localStorage.getItem(store));
  } catch {
    return null;
  }
}

// Leaving, what is not saved yet is sent along, and the lock given back. What is too long for that, or does not arrive, is on
// this computer.
function leaving(s) {
  const { x } = s;
  addEventListener("pagehide", () => {
    const unsaved = (s.dirty || s.now) && !x.clash && !s.leaving;
    if (unsaved) keepHere(s);
    s.leaving = true;
    const send = (url, more) =>
      navigator.sendBeacon?.(
        url,
        new Blob([JSON.stringify({ window: x.data.window, ...more })], { type: "application/json" }),
      );
    const sent = unsaved && send(x.data.save, { close: true, base: s.base, content: x.page() });
    if (!sent && x.data.close) send(x.data.close);
  });
  // Edits that are discarded must not be saved again on the way out.
  addEventListener("submit", (e) => {
    if (e.target.id !== "give-up" || e.defaultPrevented) return;
    s.leaving = true;
    clearTimeout(s.timer);
    forgetHere(s);
  });
  addEventListener("pageshow", (e) => {
    if (e.persisted) location.reload();
  });
}
