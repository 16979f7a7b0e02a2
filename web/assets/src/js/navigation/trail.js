// A trail: pages ticked in a filtered list, and brought in order.
import { get, say, el } from "../shared/say.js";

export function startTrail(root) {
  const steps = document.getElementById("steps"),
    ticks = document.getElementById("ticks"),
    none = document.getElementById("no-steps");
  const find = document.getElementById("t-find"),
    bare = document.getElementById("t-bare");
  let turn = 0,
    timer;

  const all = () => [...steps.children];
  const has = (id) => all().some((s) => s.dataset.id === id);

  function dress(step) {
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
        button("↑", "Up", () => move(step, -1)),
        button("↓", "Down", () => move(step, 1)),
        button("×", "Take off", () => drop(step)),
      ),
    );
    step.addEventListener("pointerdown", drag);
  }
  function settle(words) {
    none.hidden = all().length > 0;
    for (const box of ticks.querySelectorAll("input")) box.checked = has(box.value);
    keep();
    say(words);
  }
  function move(step, by) {
    const list = all(),
      at = list.indexOf(step),
      to = at + by;
    if (to < 0 || to >= list.length) return say("It is already there.");
    if (by < 0) list[to].before(step);
    else list[to].after(step);
    const title = step.querySelector("b").textContent;
    step.querySelector(`[aria-label^="${by < 0 ? "Up" : "Down"}"]`).focus();
    settle(`${title} is step ${to + 1} of ${list.length}.`);
  }
  function drop(step) {
    const title = step.querySelector("b").textContent,
      next = step.nextElementSibling ?? step.previousElementSibling;
    step.remove();
    (next?.querySelector("button") ?? find).focus();
    settle(`${title} is off the trail; the page stays.`);
  }
  function stepOf(page) {
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
    dress(step);
    return step;
  }
  function add(page) {
    steps.append(stepOf(page));
    settle(`${page.title} is step ${all().length}.`);
  }

  function drag(e) {
    if (e.button !== 0 || e.target.closest("button")) return;
    carry(e, e.currentTarget);
  }

  // A page of the list beside can be dragged to where it belongs.
  function dragIn(e, page) {
    if (e.button !== 0 || e.target.closest("input") || has(page.id)) return;
    e.preventDefault();
    carry(e, stepOf(page));
  }

  function carry(e, step) {
    const x = e.clientX,
      y = e.clientY;
    let moving = false;
    const follow = (ev) => {
      if (!moving && Math.hypot(ev.clientX - x, ev.clientY - y) < 6) return;
      moving = true;
      step.classList.add("dragged");
      const r0 = steps.getBoundingClientRect();
      if (!step.isConnected && ev.clientX > r0.left && ev.clientX < r0.right) steps.append(step);
      const over = document.elementFromPoint(ev.clientX, ev.clientY)?.closest(".step");
      if (!over || over === step) return;
      const r = over.getBoundingClientRect();
      if (ev.clientY < r.top + r.height / 2) over.before(step);
      else over.after(step);
    };
    const end = () => {
      document.removeEventListener("pointermove", follow);
      document.removeEventListener("pointerup", end);
      step.classList.remove("dragged");
      if (moving && step.isConnected)
        settle(`${step.querySelector("b").textContent} is step ${all().indexOf(step) + 1} of ${all().length}.`);
    };
    document.addEventListener("pointermove", follow);
    document.addEventListener("pointerup", end);
  }

  async function look() {
    const mine = ++turn;
    let found;
    try {
      found = (
        await get(
          root.dataset.find +
            "?" +
            new URLSearchParams({ q: find.value.trim(), pages: 1, ...(bare.checked ? { bare: 1 } : {}) }),
        )
      ).found;
    } catch (problem) {
      return say(problem.message, true);
    }
    if (mine !== turn) return;
    ticks.replaceChildren(
      ...found.map((page) =>
        el(
          "li",
          { onpointerdown: (e) => dragIn(e, page) },
          el(
            "label",
            {},
            el("input", {
              type: "checkbox",
              value: page.id,
              checked: has(page.id),
              onchange: (e) => (e.target.checked ? add(page) : drop(all().find((s) => s.dataset.id === page.id))),
            }),
            el("span", {}, page.title, el("small", {}, [page.trail, page.address].filter(Boolean).join(" · "))),
          ),
        ),
      ),
    );
    if (!found.length) ticks.replaceChildren(el("li", { class: "quiet" }, "No page is like that."));
  }
  find.addEventListener("input", () => {
    clearTimeout(timer);
    timer = setTimeout(look, 120);
  });
  bare.addEventListener("change", look);
  // What is typed is kept in this window until it is saved, also over a closed page or a lost server.
  const form = document.getElementById("trail-form"),
    slot = "trail " + location.pathname;
  const now = () => ({
    title: form.title.value,
    about: form.about.value,
    readership: form.readership.value,
    pages: all().map((s) => ({
      id: s.dataset.id,
      title: s.querySelector("b").textContent,
      address: s.querySelector(".address")?.textContent ?? "",
    })),
  });
  function keep() {
    try {
      sessionStorage.setItem(slot, JSON.stringify({ ...now(), version: form.version.value }));
    } catch {
      /* nothing is kept */
    }
  }
  function bringBack() {
    let kept = null;
    try {
      const sent = sessionStorage.getItem("trail sent");
      sessionStorage.removeItem("trail sent");
      if (sent && sent !== slot) sessionStorage.removeItem(sent); // a new trail has an address of its own now
      kept = JSON.parse(sessionStorage.getItem(slot));
    } catch {
      /* nothing is kept */
    }
    if (!kept) return;
    const { version, ...was } = kept;
    if (JSON.stringify(was) === JSON.stringify(now())) return sessionStorage.removeItem(slot);
    for (const name of ["title", "about", "readership"]) form[name].value = was[name];
    form.version.value = version; // so that whoever was quicker is told
    steps.replaceChildren(...was.pages.map(stepOf));
    settle("What you wrote here is back. It is not saved yet.");
  }
  form.addEventListener("input", keep);
  form.addEventListener("submit", (e) => {
    try {
      sessionStorage.setItem("trail sent", slot);
      if (e.submitter?.value === "remove") sessionStorage.removeItem(slot);
    } catch {
      /* nothing is kept */
    }
  });
  all().forEach(dress);
  bringBack();
  look();
}
