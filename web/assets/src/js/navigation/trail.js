// A trail: pages ticked in a filtered list, and brought in order. What the screen knows is one object, t.
import { follow } from "../shared/drag.js";
import { get, say, el } from "../shared/say.js";

export function startTrail(root) {
  const t = {
    root,
    steps: document.getElementById("steps"),
    ticks: document.getElementById("ticks"),
    none: document.getElementById("no-steps"),
    find: document.getElementById("t-find"),
    bare: document.getElementById("t-bare"),
    form: document.getElementById("trail-form"),
    slot: "trail " + location.pathname, // under which it is kept in this window
    turn: 0,
  };
  t.find.addEventListener("input", () => {
    clearTimeout(t.timer);
    t.timer = setTimeout(() => look(t), 120);
  });
  t.bare.addEventListener("change", () => look(t));
  // What is typed is kept in this window until it is saved, also over a closed page or a lost server.
  t.form.addEventListener("input", () => keep(t));
  t.form.addEventListener("submit", (e) => {
    try {
      sessionStorage.setItem("trail sent", t.slot);
      if (e.submitter?.value === "remove") sessionStorage.removeItem(t.slot);
    } catch {
      /* nothing is kept */
    }
  });
  all(t).forEach((step) => dress(t, step));
  bringBack(t);
  look(t);
}

const all = (t) => [...t.steps.children];

const has = (t, id) => all(t).some((s) => s.dataset.id === id);

function dress(t, step) {
  const title = step.querySelector("b").textContent;
  const button = (words, label, act) =>
    el(
      "button",
      { type: "button", class: "tool", "aria-label": label + " " + title, title: label, onclick: act },
      words,
    );
  step.append(
    el(
      "span",
      { class: "step-acts" },
      button("↑", "Up", () => move(t, step, -1)),
      button("↓", "Down", () => move(t, step, 1)),
      button("×", "Take off", () => drop(t, step)),
    ),
  );
  step.addEventListener("pointerdown", (e) => drag(t, e));
}

function settle(t, words) {
  t.none.hidden = all(t).length > 0;
  for (const box of t.ticks.querySelectorAll("input")) box.checked = has(t, box.value);
  keep(t);
  say(words);
}

function move(t, step, by) {
  const list = all(t),
    at = list.indexOf(step),
    to = at + by;
  if (to < 0 || to >= list.length) return say("It is already there.");
  if (by < 0) list[to].before(step);
  else list[to].after(step);
  const title = step.querySelector("b").textContent;
  step.querySelector(`[aria-label^="${by < 0 ? "Up" : "Down"}"]`).focus();
  settle(t, `${title} is step ${to + 1} of ${list.length}.`);
}

function drop(t, step) {
  const title = step.querySelector("b").textContent,
    next = step.nextElementSibling ?? step.previousElementSibling;
  step.remove();
  (next?.querySelector("button") ?? t.find).focus();
  settle(t, `${title} is off the trail; the page stays.`);
}

function stepOf(t, page) {
  const step = el(
    "li",
    { class: "step", "data-id": page.id },
    el("input", { type: "hidden", name: "page", value: page.id }),
    el(
      "span",
      { class: "step-words" },
      el("b", {}, page.title),
      " ",
      el("span", { class: "address quiet" }, page.address),
    ),
  );
  dress(t, step);
  return step;
}

function add(t, page) {
  t.steps.append(stepOf(t, page));
  settle(t, `${page.title} is step ${all(t).length}.`);
}

function drag(t, e) {
  if (e.button !== 0 || e.target.closest("button")) return;
  carry(t, e, e.currentTarget);
}

// A page of the list beside can be dragged to where it belongs.
function dragIn(t, e, page) {
  if (e.button !== 0 || e.target.closest("input") || has(t, page.id)) return;
  e.preventDefault();
  carry(t, e, stepOf(t, page));
}

function carry(t, e, step) {
  const was = step.isConnected ? [step.parentNode, step.nextSibling] : null;
  follow(e, {
    begin: () => step.classList.add("dragged"),
    move(ev) {
      const r0 = t.steps.getBoundingClientRect();
      if (!step.isConnected && ev.clientX > r0.left && ev.clientX < r0.right) t.steps.append(step);
      const over = document.elementFromPoint(ev.clientX, ev.clientY)?.closest(".step");
      if (over && over !== step) {
        const r = over.getBoundingClientRect();
        if (ev.clientY < r.top + r.height / 2) over.before(step);
        else over.after(step);
      }
      return step.isConnected || null;
    },
    drop() {
      const list = all(t);
      settle(t, `${step.querySelector("b").textContent} is step ${list.indexOf(step) + 1} of ${list.length}.`);
    },
    end(dropped) {
      step.classList.remove("dragged");
      if (dropped) return;
      if (was) was[0].insertBefore(step, was[1]);
      else step.remove();
    },
  });
}

async function look(t) {
  const mine = ++t.turn;
  let found;
  try {
    found = (
      await get(
        t.root.dataset.find +
          "?" +
          new URLSearchParams({ q: t.find.value.trim(), pages: 1, ...(t.bare.checked ? { bare: 1 } : {}) }),
      )
    ).found;
  } catch (problem) {
    return say(problem.message, true);
  }
  if (mine !== t.turn) return;
  t.ticks.replaceChildren(
    ...found.map((page) =>
      el(
        "li",
        { onpointerdown: (e) => dragIn(t, e, page) },
        el(
          "label",
          {},
          el("input", {
            type: "checkbox",
            value: page.id,
            checked: has(t, page.id),
            onchange: (e) =>
              e.target.checked
                ? add(t, page)
                : drop(
                    t,
                    all(t).find((s) => s.dataset.id === page.id),
                  ),
          }),
          el("span", {}, page.title, el("small", {}, [page.trail, page.address].filter(Boolean).join(" · "))),
        ),
      ),
    ),
  );
  if (!found.length) t.ticks.replaceChildren(el("li", { class: "quiet" }, "No page is like that."));
}

const now = (t) => ({
  title: t.form.title.value,
  about: t.form.about.value,
  readership: t.form.readership.value,
  pages: all(t).map((s) => ({
    id: s.dataset.id,
    title: s.querySelector("b").textContent,
    address: s.querySelector(".address")?.textContent ?? "",
  })),
});

function keep(t) {
  try {
    sessionStorage.setItem(t.slot, JSON.stringify({ ...now(t), version: t.form.version.value }));
  } catch {
    /* nothing is kept */
  }
}

function bringBack(t) {
  let kept = null;
  try {
    const sent = sessionStorage.getItem("trail sent");
    sessionStorage.removeItem("trail sent");
    if (sent && sent !== t.slot) sessionStorage.removeItem(sent); // a new trail has an address of its own now
    kept = JSON.parse(sessionStorage.getItem(t.slot));
  } catch {
    /* nothing is kept */
  }
  if (!kept) return;
  const { version, ...was } = kept;
  if (JSON.stringify(was) === JSON.stringify(now(t))) return sessionStorage.removeItem(t.slot);
  for (const name of ["title", "about", "readership"]) t.form[name].value = was[name];
  t.form.version.value = version; // so that whoever was quicker is told
  t.steps.replaceChildren(...was.pages.map((page) => stepOf(t, page)));
  settle(t, "What you wrote here is back. It is not saved yet.");
}
