// The items of a menu: choosing, moving, naming; and how readers get it beside. What the screen knows is one object, m.
import { drag } from "./menu_drag.js";
import { onKey, run } from "./menu_keys.js";
import { fragment, key, post, say } from "../shared/say.js";
import { planChanged } from "../shared/shelf.js";
import { startLook } from "./menu_look.js";
import { bothNote } from "../shared/both.js";
import { swap } from "../shared/swap.js";
import { suggest } from "../shared/suggest.js";

export function startMenus(root) {
  const m = {
    root,
    part: document.getElementById("menu-part"),
    facts: document.getElementById("menu-item"),
    state: { item: null, toggled: new URLSearchParams(location.search).getAll("open") },
    turn: 0,
    writing: null,
    queue: Promise.resolve(), // acts go one after another
    find: document.getElementById("add-find"),
    as: document.getElementById("add-as"),
  };
  m.look = startLook(document.getElementById("menu-look"), () => menu(m) === "foot");
  suggest(
    m.find,
    m.root.dataset.find,
    () => (document.getElementById("add-bare").checked ? { bare: 1 } : {}),
    async (item) => {
      m.find.value = "";
      const what = item.id
        ? { kind: m.as.value, entry: item.id }
        : { kind: item.kind, title: item.title, url: item.address };
      act(m, { do: "add", ...what, ...spot(m) }, null, false).then(() => m.find.focus());
    },
  );
  document.getElementById("add-label").addEventListener("submit", async (e) => {
    e.preventDefault();
    const f = e.target;
    if (
      await act(
        m,
        { do: "add", kind: f.url.value.trim() ? "link" : "label", title: f.title.value, url: f.url.value, ...spot(m) },
        f,
      )
    ) {
      f.reset();
      document.getElementById("add-own").open = false;
    }
  });
  document.getElementById("add-divider").addEventListener("click", async () => {
    if (await act(m, { do: "add", kind: "divider", ...spot(m) })) document.getElementById("add-own").open = false;
  });
  document.getElementById("add-own").addEventListener("toggle", (e) => {
    if (e.target.open) document.getElementById("add-words").focus();
  });
  for (const button of document.querySelectorAll("[data-menu-do]"))
    button.addEventListener("click", () => run(m, button.dataset.menuDo));
  m.look.onChange(() => remember(m));
  wire(m);
  wireItem(m);
  line(m)?.scrollIntoView({ block: "nearest" });
}

export const tree = () => document.getElementById("menu-tree");

export const lines = () => [...(tree()?.children ?? [])];

export const line = (m) => lines().find((l) => l.dataset.key === m.state.item);

const menu = (m) => m.part.firstElementChild.dataset.menu;

const query = (m, more) => {
  const q = new URLSearchParams({ menu: menu(m) });
  if (m.state.item) q.set("item", m.state.item);
  for (const k of m.state.toggled) q.append("open", k);
  for (const [k, v] of Object.entries({ ...m.look.state(), ...more })) if (v) q.set(k, v);
  return "?" + q;
};

const remember = (m) => history.replaceState(history.state, "", query(m));

async function load(m, focus) {
  const mine = ++m.turn;
  const html = await fragment(query(m, { part: "menu" }));
  if (html === null) return say("The server does not answer. What you see may be out of date.", true);
  if (mine !== m.turn) return;
  const scrolled = m.part.querySelector(".menu-scroll")?.scrollTop ?? 0;
  swap(m.part, html);
  m.part.querySelector(".menu-scroll").scrollTop = scrolled;
  wire(m);
  remember(m); // before anything else is waited for
  if (focus) tree()?.focus({ preventScroll: true });
  line(m)?.scrollIntoView({ block: "nearest" });
  await showItem(m);
}

async function showItem(m, over) {
  const mine = m.turn,
    item = m.state.item;
  const html = await fragment(query(m, { part: "item" }));
  if (html === null || mine !== m.turn || item !== m.state.item || (isWriting(m) && !over)) return;
  swap(m.facts, html);
  wireItem(m);
  if (m.writing === item) writeLabel(m);
}

// What somebody is typing beside is not drawn over.
function isWriting(m) {
  const at = document.activeElement;
  return m.facts.contains(at) && "defaultValue" in at && at.value !== at.defaultValue && itemBeside(m) === m.state.item;
}

// What stands beside is of the item that it names, which may be another than the one chosen since.
const itemBeside = (m) => m.facts.querySelector("[data-item]")?.dataset.item;

// writeLabel goes to the label of the chosen item, as soon as it is there.
export function writeLabel(m) {
  if (itemBeside(m) !== m.state.item) {
    m.writing = m.state.item;
    clearTimeout(m.timer);
    return void showItem(m);
  }
  m.writing = null;
  document.getElementById("item-title")?.focus();
}

export function choose(m, l, quiet) {
  if (!l) return;
  for (const other of lines()) {
    other.setAttribute("aria-selected", other === l);
    other.classList.toggle("sel", other === l);
  }
  m.state.item = l.dataset.key;
  m.writing = null;
  tree().setAttribute("aria-activedescendant", l.id);
  l.scrollIntoView({ block: "nearest" });
  remember(m);
  clearTimeout(m.timer);
  if (!quiet) m.timer = setTimeout(() => showItem(m), 80);
}

export function toggle(m, l) {
  const k = l.dataset.key,
    i = m.state.toggled.indexOf(k);
  if (i < 0) m.state.toggled.push(k);
  else m.state.toggled.splice(i, 1);
  choose(m, l, true);
  load(m, true);
}

// act does one act, and shows the menu as it is then. A refusal stays by its field.
export function act(m, form, box, focus = true) {
  m.queue = m.queue.then(async () => {
    m.both = null;
    const problem = box?.querySelector(".problem");
    if (problem) problem.hidden = true;
    let answer;
    try {
      answer = await post(m.root.dataset.act, { key: key(), menu: menu(m), item: m.state.item ?? "", ...form });
    } catch (refused) {
      m.both = refused.body?.both;
      if (problem && refused.status === 422) {
        problem.textContent = refused.message;
        problem.hidden = false;
      }
      say(refused.message, true);
      if (refused.status === 409 || refused.status === 404) await load(m, focus);
      return false;
    }
    if (answer.item) m.state.item = answer.item;
    await settled(m, answer.say, focus);
    return true;
  });
  return m.queue;
}

export async function settled(m, words, focus) {
  await load(m, focus);
  if (words) say(words);
  m.look.show("next"); // Live stays as it is
  planChanged();
}

// Where something new goes: behind the item that is chosen.
const spot = (m) => {
  const l = line(m);
  return l ? { parent: l.dataset.parent, after: l.dataset.key } : { parent: "", last: true };
};

function wire(m) {
  m.state.item = lines().find((l) => l.classList.contains("sel"))?.dataset.key ?? null;
  const which = m.part.querySelector("#menu-which");
  which.addEventListener("change", () => {
    location.href = "?menu=" + encodeURIComponent(which.value);
  });
  m.part.querySelector("[data-reset]")?.addEventListener("click", () => act(m, { do: "reset", item: "" }));
  const of = m.part.querySelector("#set-of");
  const set = (id = of.dataset.id) =>
    send(m, m.part.querySelector("#menu-set"), { do: "set", item: "", ...settings(id) });
  const settings = (id) => ({
    of: id,
    levels: Number(m.part.querySelector("#set-levels").value),
    az: !!m.part.querySelector("#set-az").value,
    wait: !!m.part.querySelector("#set-wait").value,
  });
  m.set = settings(of.dataset.id);
  drawMet(m);
  suggest(
    of,
    "/studio/find",
    () => ({ only: "holder" }),
    (item) => set(item.id),
  );
  of.addEventListener("focus", () => of.select());
  of.addEventListener("blur", () => {
    of.value = of.dataset.was;
  });
  m.part.querySelector("[data-of-usual]")?.addEventListener("click", () => set(""));
  for (const field of m.part.querySelectorAll("#menu-set select")) field.addEventListener("change", () => set());
  m.part.querySelector("#menu-set").addEventListener("submit", (e) => e.preventDefault());
  const t = tree();
  if (!t) return;
  const l = line(m);
  if (l) t.setAttribute("aria-activedescendant", l.id);
  t.addEventListener("click", (e) => {
    const on = e.target.closest(".m-line");
    if (on && e.target.closest("[data-twist]")) toggle(m, on);
    else choose(m, on);
  });
  t.addEventListener("dblclick", () => writeLabel(m));
  t.addEventListener("keydown", (e) => onKey(m, e));
  t.addEventListener("pointerdown", (e) => drag(m, e));
}

// send writes what a form says, against what it showed; of what somebody else changed meanwhile, one value stays.
async function send(m, form, what, was = what.do === "set" ? m.set : m.shown) {
  const seen = Number(form.closest("[data-version]").dataset.version);
  if (await act(m, { ...what, seen, was }, form, false)) {
    if (what.do === "say" && itemBeside(m) === what.item) m.shown = { ...was, ...what };
    if (m.met?.what.item !== what.item) return;
    m.met.note.remove(); // it is decided
    m.met = null;
    return;
  }
  if (!m.both) return;
  const { both } = m,
    mine = Object.fromEntries(Object.entries(what).filter(([name, value]) => was[name] !== value));
  const choose = (again) => () => {
    m.met = null;
    if (again) send(m, formOf(m, what), { ...(what.do === "set" ? m.set : m.shown), ...mine });
    else formOf(m, what).querySelector("input, select").focus();
  };
  m.met = { what, note: bothNote(both, choose(true), choose(false)) };
  if (what.do === "say") await showItem(m, true);
  drawMet(m);
}

const formOf = (m, what) => (what.do === "set" ? m.part : m.facts).querySelector("#menu-set, #item-form");

// drawMet puts the two values below the form that they are of, which may be drawn anew meanwhile.
function drawMet(m) {
  if (m.met && (m.met.what.do === "set" || m.met.what.item === itemBeside(m)))
    formOf(m, m.met.what)?.append(m.met.note);
}

function wireItem(m) {
  for (const button of m.facts.querySelectorAll("[data-do]"))
    button.addEventListener("click", () => run(m, button.dataset.do, itemBeside(m)));
  const form = m.facts.querySelector("#item-form");
  if (!form) return;
  const of = m.facts.firstElementChild.dataset.item;
  const filled = () => ({
    title: form.title.value,
    url: form.url?.value ?? "",
    symbol: form.symbol.value,
    levels: Number(form.levels?.value ?? 0),
  });
  m.shown = filled();
  const write = () => send(m, form, { do: "say", item: of, ...filled() });
  drawMet(m);
  form.addEventListener("change", write);
  form.addEventListener("submit", (e) => {
    e.preventDefault();
    tree()?.focus();
  });
  form.addEventListener("keydown", (e) => {
    if (e.key === "Escape") tree()?.focus();
  });
}
