// The page editor: fields and blocks of one page, saved by themselves.
import { el, post, say } from "../shared/say.js";
import { loadKinds } from "./blocks.js";
import { identified, marked, marksOf } from "./marks.js";

const data = JSON.parse(document.getElementById("page-data").textContent);
const store = `candlepath:draft:${data.person}:${data.entry}`;
const page = { fields: data.fields || {}, slots: data.slots || {} };
let base = data.base,
  lock = data.lock,
  dirty = false,
  saving = null,
  failed = 0,
  timer,
  clash = null,
  leaving = false,
  blockKinds = {}; // by type
const editors = new Set();
const editable = () => lock.mine && !clash;
// What blocks are drawn with.
const ed = {
  findURL: data.find,
  hosts: data.hosts,
  symbols: data.symbols,
  titles: data.titles,
  editors,
  editable,
  changed: () => changed(),
};

// --- saving ---

const saved = document.getElementById("saved");
function status(words, cls = "") {
  saved.textContent = words;
  saved.className = "saved " + cls;
}

// Every change goes to this computer first, so that neither a closed tab nor a
// cut connection loses a sentence.
function changed() {
  dirty = true;
  keepHere();
  status("Saving …", "busy");
  clearTimeout(timer);
  timer = setTimeout(save, 700);
}
function keepHere() {
  try {
    localStorage.setItem(store, JSON.stringify({ base, at: Date.now(), page }));
  } catch {
    /* the server still gets it */
  }
}
const forgetHere = () => {
  try {
    localStorage.removeItem(store);
  } catch {
    /* nothing kept */
  }
};

async function save(options = {}) {
  if (saving || !dirty || clash || leaving) return saving;
  dirty = false;
  saving = (async () => {
    try {
      const answer = await post(data.save, { window: data.window, base, content: page }, options);
      base = answer.version;
      failed = 0;
      if (!dirty) {
        forgetHere();
        status("Saved");
        marks.look();
      } else keepHere();
    } catch (problem) {
      if (problem.status === 409) return met(problem.body);
      dirty = true;
      failed++;
      if (problem.status && problem.status < 500 && problem.status !== 401) status(problem.message, "bad");
      else
        status(
          problem.status === 401
            ? problem.message
            : "Not connected. Your text is kept on this computer and saved as soon as the server answers.",
          "bad",
        );
      clearTimeout(timer);
      timer = setTimeout(save, Math.min(1000 * 2 ** failed, 15000));
    } finally {
      saving = null;
      if (dirty && !failed) timer = setTimeout(save, 300);
    }
  })();
  return saving;
}
addEventListener("online", () => {
  failed = 0;
  save();
});
// Leaving, what is not saved yet is sent along, and the lock given back. What
// is too long for that, or does not arrive, is on this computer.
addEventListener("pagehide", () => {
  const unsaved = (dirty || saving) && !clash && !leaving;
  leaving = true;
  const send = (url, more) =>
    navigator.sendBeacon?.(
      url,
      new Blob([JSON.stringify({ window: data.window, ...more })], { type: "application/json" }),
    );
  if (!unsaved || !send(data.save, { close: true, base, content: page })) send(data.close);
});
// Edits that are given up must not be saved again on the way out.
addEventListener("submit", (e) => {
  if (e.target.id !== "give-up" || e.defaultPrevented) return;
  leaving = true;
  clearTimeout(timer);
  forgetHere();
});
addEventListener("pageshow", (e) => {
  if (e.persisted) location.reload();
});

// --- two texts that met ---

// The server compares them, as it does everywhere; without a connection they can still be chosen from.
async function mark(mine, theirs, left, right) {
  try {
    const sides = await post(data.compare, { mine, theirs });
    left.replaceChildren(...marked(sides.mine || []));
    right.replaceChildren(...marked(sides.theirs || []));
  } catch (problem) {
    left.replaceChildren(problem.message + " ");
    left.append(
      el("button", { class: "btn", type: "button", onclick: () => mark(mine, theirs, left, right) }, "Try again"),
    );
    right.replaceChildren();
  }
}

function compare({ mine, theirs, by, at, version, keptId, why }) {
  const box = document.getElementById("compare");
  const left = el("pre", { tabindex: "0" }),
    right = el("pre", { tabindex: "0" });
  mark(mine, theirs, left, right);
  const time = at && !at.startsWith("0001") ? new Date(at).toLocaleString("en-GB") : "";
  box.replaceChildren(
    el("h2", {}, "Two texts met; both are kept"),
    el("p", {}, why),
    el(
      "div",
      { class: "sides" },
      el(
        "div",
        {},
        el("h3", {}, "Yours"),
        left,
        el("button", { class: "btn btn-main", type: "button", onclick: () => choose(mine) }, "Go on with yours"),
      ),
      el(
        "div",
        {},
        el("h3", {}, by ? `${by}’s${time ? ", " + time : ""}` : "The one that is saved"),
        right,
        el("button", { class: "btn", type: "button", onclick: () => choose(theirs) }, "Go on with the saved one"),
      ),
    ),
    el(
      "p",
      { class: "small quiet" },
      "To join them, go on with one and copy sentences from the other before you choose.",
    ),
  );
  box.hidden = false;
  box.scrollIntoView({ block: "start" });
  clash = true;
  refresh();
  const choose = async (p) => {
    try {
      const l = await post(data.lockUrl, { window: data.window, force: true });
      if (keptId) await post(data.keptUrl, { id: keptId });
      lock = l;
    } catch (problem) {
      return say(problem.message, true);
    }
    clash = null;
    base = version;
    box.hidden = true;
    page.fields = p.fields || {};
    page.slots = p.slots || {};
    drawAll();
    if (p === mine) changed();
    else {
      dirty = false;
      forgetHere();
      status("Saved");
    }
  };
}

function met(body) {
  lock = { ...lock, mine: false, holder: body.holder };
  forgetHere();
  const why = body.holder
    ? `${body.holder} took this page over while you wrote. Your text is kept on the server.`
    : `${body.by || "Somebody"} saved this page after you opened it. Your text is kept on the server.`;
  status("Your text is kept, not saved. Choose below.", "bad");
  compare({
    mine: structuredClone(page),
    theirs: body.theirs,
    by: body.by,
    at: body.at,
    version: body.version,
    keptId: body.kept,
    why,
  });
}

// A window that was reloaded goes on where it was: this tab had the page open before, and no other window answers for it.
// A tab that was doubled finds the first one alive, and reads.
const tab = `candlepath:window:${data.entry}`,
  before = sessionStorage.getItem(tab),
  line = new BroadcastChannel("candlepath:windows");
line.onmessage = (e) => {
  if (e.data.ask === data.window && !leaving) line.postMessage({ alive: data.window });
};
sessionStorage.setItem(tab, data.window);

// --- the lock ---

const note = document.getElementById("lock-note");
let waiting = !lock.mine && lock.self && !!before; // for what this tab had before
setTimeout(() => {
  waiting = false;
  drawLock();
}, 1500);
function drawLock() {
  document.getElementById("give-up")?.toggleAttribute("hidden", !lock.mine || !!clash);
  note.hidden = lock.mine || !!clash || waiting;
  if (note.hidden) return;
  const since = lock.since
    ? " since " + new Date(lock.since).toLocaleTimeString("en-GB", { hour: "2-digit", minute: "2-digit" })
    : "";
  const who = lock.self
    ? "You have this page open in another window"
    : `${lock.holder || "Somebody"} has this page open`;
  note.replaceChildren(
    el("span", {}, `${who}${since}. You can read it here.`),
    el("button", { class: "btn", type: "button", onclick: takeOver }, lock.self ? "Write here instead" : "Take over"),
  );
}
async function takeOver() {
  try {
    become(await post(data.lockUrl, { window: data.window, force: true, reading: true }));
  } catch (problem) {
    say(problem.message, true);
  }
}

// become takes up what the server says of the lock. A window that gets it
// begins from the newest text, and from what this computer still holds.
function become(l) {
  lock = l;
  if (l.mine && l.content) {
    base = l.base || 0;
    page.fields = l.content.fields || {};
    page.slots = l.content.slots || {};
    dirty = false;
    drawAll();
    restore();
  }
  refresh();
}

let beating;
async function beat() {
  clearTimeout(beating);
  try {
    const was = lock.mine,
      l = await post(data.lockUrl, { window: data.window, reading: !was });
    if (was && !l.mine && dirty) {
      lock = l;
      await save(); // meets the other text; both are kept
    }
    if (!clash && l.mine !== was) become(l);
    else lock = l;
    drawLock();
  } catch {
    /* the next beat tells */
  }
  beating = setTimeout(beat, 12000);
}
async function goOn() {
  if (lock.mine || !lock.self || !before || (await answers(before))) return;
  try {
    const l = await post(data.lockUrl, { window: data.window, was: before, reading: true });
    if (l.mine) become(l);
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
beating = setTimeout(beat, 12000);

// --- fields and blocks ---

function refresh() {
  drawLock();
  for (const e of editors) e.refresh();
  for (const f of document.querySelectorAll(
    "#editor [data-field], #editor .block-head .tool:not(.tools .tool), #editor .add-block button, #editor .tile-card input, #editor .tile-card select, #editor .tile-card button",
  ))
    f.disabled = !editable();
}

for (const field of document.querySelectorAll("#editor [data-field]")) {
  const on = () => {
    page.fields[field.dataset.field] = field.value;
    changed();
  };
  field.addEventListener("input", on);
  field.addEventListener("change", on);
}

function drawAll() {
  for (const e of editors) e.destroy();
  editors.clear();
  for (const field of document.querySelectorAll("#editor [data-field]"))
    field.value = page.fields[field.dataset.field] || "";
  for (const slot of document.querySelectorAll("#editor [data-slot]")) drawSlot(slot);
  marks.look();
  refresh();
}

function drawSlot(slot) {
  const blocks = (page.slots[slot.dataset.slot] ||= []);
  const kinds = slot.dataset.blocks.split(" ");
  slot.replaceChildren(
    ...blocks.map((b, i) => drawBlock(slot, blocks, b, i)),
    el(
      "div",
      { class: "add-block" },
      el("span", { class: "small quiet" }, blocks.length ? "Add" : "Begin with"),
      ...kinds.map((k) =>
        el("button", { type: "button", class: "btn", onclick: () => addBlock(slot, blocks, k) }, blockKinds[k].name),
      ),
    ),
  );
}

function addBlock(slot, blocks, kind) {
  blocks.push(identified(blockKinds[kind].empty()));
  redrawSlot(slot);
  [...slot.querySelectorAll(".ProseMirror, .tile-list button")].at(-1)?.focus();
  changed();
}

const marks = marksOf(document.getElementById("editor"), data.changes, page);

function redrawSlot(slot) {
  for (const e of [...editors])
    if (slot.contains(e.place)) {
      e.destroy();
      editors.delete(e);
    }
  drawSlot(slot);
  marks.again();
  refresh();
}

function drawBlock(slot, blocks, b, i) {
  const kind = blockKinds[b.type];
  const head = el("div", { class: "block-head" }, el("span", { class: "name" }, kind.name)),
    body = el("div"),
    at = el("div", { "data-block": b.id || "" }, head, body);
  const box = {
    name: kind.name,
    head,
    body,
    dress() {
      const changed = at.classList.contains("is-changed") && "is-changed";
      at.className = ["block", "block-" + b.type, kind.look?.(b), changed].filter(Boolean).join(" ");
    },
    redraw() {
      redrawSlot(slot);
      return slot;
    },
  };
  box.dress();
  kind.draw(ed, b, box);
  head.append(...blockActs(slot, blocks, i, kind.name));
  return at;
}

// blockActs are the buttons that move a block and remove it.
function blockActs(slot, blocks, i, name) {
  const move = (to) => {
    if (to < 0 || to >= blocks.length) return;
    blocks.splice(to, 0, ...blocks.splice(i, 1));
    redrawSlot(slot);
    changed();
    slot.children[to]?.querySelector(".tool")?.focus();
  };
  const button = (words, label, title, onclick) =>
    el("button", { type: "button", class: "tool", "aria-label": label, title, onclick }, words);
  return [
    button("↑", `Move ${name} up`, "Up", () => move(i - 1)),
    button("↓", `Move ${name} down`, "Down", () => move(i + 1)),
    button("Remove", `Remove ${name}`, "Remove", () => removeBlock(slot, blocks, i)),
  ];
}

function removeBlock(slot, blocks, i) {
  const [gone] = blocks.splice(i, 1);
  redrawSlot(slot);
  changed();
  const back = el(
    "button",
    {
      type: "button",
      class: "btn",
      onclick: () => {
        blocks.splice(i, 0, gone);
        redrawSlot(slot);
        changed();
      },
    },
    `Bring the ${blockKinds[gone.type].name.toLowerCase()} back`,
  );
  slot.lastChild.append(back);
}

// --- begin ---

async function begin() {
  blockKinds = await loadKinds(data.blocks);
  drawAll();
  drawKept();
  restore();
  goOn();
}
begin();

// Fields and slots that are empty and those that are missing mean the same.
const filled = (all) =>
  Object.entries(all || {})
    .filter(([, v]) => v?.length)
    .sort(([a], [b]) => (a < b ? -1 : 1));
const sameText = (a, b) =>
  JSON.stringify([filled(a.fields), filled(a.slots)]) === JSON.stringify([filled(b.fields), filled(b.slots)]);

// A text left on this computer by a closed tab or a cut connection.
function restore() {
  let here = null;
  try {
    here = JSON.parse(localStorage.getItem(store));
  } catch {
    /* none */
  }
  if (!here || !lock.mine) return;
  const theirs = structuredClone(page);
  if (sameText(here.page, theirs)) return forgetHere();
  if (here.base === base) {
    page.fields = here.page.fields;
    page.slots = here.page.slots;
    drawAll();
    changed();
    say("A text that had not reached the server was restored.");
    return;
  }
  compare({
    mine: here.page,
    theirs,
    by: "",
    at: "",
    version: base,
    keptId: "",
    why: "This computer holds a text that had not reached the server, and the page was saved since.",
  });
}

function drawKept() {
  const box = document.getElementById("kept");
  if (!data.kept.length) return;
  box.replaceChildren(
    el("h3", {}, "Kept texts"),
    el(
      "ul",
      {},
      ...data.kept.map((k) =>
        el(
          "li",
          {},
          el(
            "button",
            {
              class: "btn",
              type: "button",
              onclick: () =>
                compare({
                  mine: k.content,
                  theirs: structuredClone(page),
                  by: "",
                  at: "",
                  version: base,
                  keptId: k.id,
                  why: "You wrote this when the page was taken over or saved by somebody else.",
                }),
            },
            "Yours of " + new Date(k.at).toLocaleString("en-GB"),
          ),
        ),
      ),
    ),
  );
}
