// The items of a menu: choosing, moving, saying; and how readers get it beside.
import { say, post, fragment, key } from "../shared/say.js";
import { planChanged } from "../shared/shelf.js";
import { suggest } from "../shared/suggest.js";

const keys = [
  ["↑ ↓", "select the item above or below"],
  ["← →", "close or open; go up"],
  ["Alt ↑", "move up, Alt ↓ down"],
  ["Alt →", "indent, Alt ← outdent"],
  ["Enter", "edit its label"],
  ["Delete", "hide it from the menu"],
  ["i", "show it in the menu"],
  ["b", "reset it to computed"],
  ["a", "add a page"],
  ["Ctrl Z", "undo, Ctrl Shift Z redo"],
];

export function startMenus(root) {
  const part = document.getElementById("menu-part"),
    facts = document.getElementById("menu-item");
  const look = startLook(document.getElementById("menu-look"), () => menu() === "foot");
  const state = { item: null, toggled: new URLSearchParams(location.search).getAll("open") };
  let turn = 0,
    timer,
    writing = null,
    queue = Promise.resolve();

  const tree = () => document.getElementById("menu-tree");
  const lines = () => [...(tree()?.children ?? [])];
  const line = () => lines().find((l) => l.dataset.key === state.item);
  const menu = () => part.firstElementChild.dataset.menu;
  const query = (more) => {
    const q = new URLSearchParams({ menu: menu() });
    if (state.item) q.set("item", state.item);
    for (const k of state.toggled) q.append("open", k);
    for (const [k, v] of Object.entries({ ...look.state(), ...more })) if (v) q.set(k, v);
    return "?" + q;
  };
  const remember = () => history.replaceState(history.state, "", query());

  async function load(focus) {
    const mine = ++turn;
    const html = await fragment(query({ part: "menu" }));
    if (html === null) return say("The server does not answer. What you see may be out of date.", true);
    if (mine !== turn) return;
    const scrolled = part.querySelector(".menu-scroll")?.scrollTop ?? 0;
    part.innerHTML = html;
    part.querySelector(".menu-scroll").scrollTop = scrolled;
    wire();
    remember(); // before anything else is waited for
    if (focus) tree()?.focus({ preventScroll: true });
    line()?.scrollIntoView({ block: "nearest" });
    await showItem();
  }

  async function showItem() {
    const mine = turn,
      item = state.item;
    const html = await fragment(query({ part: "item" }));
    if (html === null || mine !== turn || item !== state.item) return;
    const within = facts.contains(document.activeElement) ? document.activeElement.id : "";
    facts.innerHTML = html;
    wireItem();
    if (within) document.getElementById(within)?.focus();
    if (writing === item) writeLabel();
  }

  // What stands beside is of the item that it names, which may be another than the one chosen since.
  const itemBeside = () => facts.querySelector("[data-item]")?.dataset.item;

  // writeLabel goes to the label of the chosen item, as soon as it is there.
  function writeLabel() {
    if (itemBeside() !== state.item) {
      writing = state.item;
      clearTimeout(timer);
      return void showItem();
    }
    writing = null;
    document.getElementById("item-title")?.focus();
  }

  function choose(l, quiet) {
    if (!l) return;
    for (const other of lines()) {
      other.setAttribute("aria-selected", other === l);
      other.classList.toggle("sel", other === l);
    }
    state.item = l.dataset.key;
    writing = null;
    tree().setAttribute("aria-activedescendant", l.id);
    l.scrollIntoView({ block: "nearest" });
    remember();
    clearTimeout(timer);
    if (!quiet) timer = setTimeout(showItem, 80);
  }

  function toggle(l) {
    const k = l.dataset.key,
      i = state.toggled.indexOf(k);
    if (i < 0) state.toggled.push(k);
    else state.toggled.splice(i, 1);
    choose(l, true);
    load(true);
  }

  // act does one act, and shows the menu as it is then. A refusal stays by its field.
  function act(form, box, focus = true) {
    queue = queue.then(async () => {
      const problem = box?.querySelector(".problem");
      if (problem) problem.hidden = true;
      let answer;
      try {
        answer = await post(root.dataset.act, { key: key(), menu: menu(), item: state.item ?? "", ...form });
      } catch (refused) {
        if (problem && refused.status === 422) {
          problem.textContent = refused.message;
          problem.hidden = false;
        }
        say(refused.message, true);
        if (refused.status === 409 || refused.status === 404) await load(focus);
        return false;
      }
      if (answer.item) state.item = answer.item;
      await settled(answer.say, focus);
      return true;
    });
    return queue;
  }

  async function settled(words, focus) {
    await load(focus);
    if (words) say(words);
    look.show("next"); // Live stays as it is
    planChanged();
  }

  function stepBack(what) {
    queue = queue.then(async () => {
      try {
        await settled((await post(root.dataset[what], {})).say, true);
      } catch (problem) {
        say(problem.message, problem.status !== 409);
      }
    });
  }

  function run(what, item = state.item) {
    if (what === "undo" || what === "redo") return stepBack(what);
    if (what === "keys") return document.dispatchEvent(new CustomEvent("show-keys", { detail: keys }));
    if (!item) return;
    switch (what) {
      case "up":
      case "down":
      case "in":
        return act({ do: "step", step: what, item });
      case "out-step":
        return act({ do: "step", step: "out", item });
      case "leave-out":
        return act({ do: "out", item });
      case "let-in":
        return act({ do: "in", item });
      case "back":
        return act({ do: "back", item });
    }
  }

  // Where something new goes: behind the item that is chosen.
  const spot = () => {
    const l = line();
    return l ? { parent: l.dataset.parent, after: l.dataset.key } : { parent: "", last: true };
  };

  function wire() {
    state.item = lines().find((l) => l.classList.contains("sel"))?.dataset.key ?? null;
    const which = part.querySelector("#menu-which");
    which.addEventListener("change", () => {
      location.href = "?menu=" + encodeURIComponent(which.value);
    });
    part.querySelector("[data-reset]")?.addEventListener("click", () => act({ do: "reset", item: "" }));
    const of = part.querySelector("#set-of");
    const set = (id = of.dataset.id) =>
      act(
        {
          do: "set",
          item: "",
          of: id,
          levels: Number(part.querySelector("#set-levels").value),
          az: !!part.querySelector("#set-az").value,
          wait: !!part.querySelector("#set-wait").value,
        },
        null,
        false,
      );
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
    part.querySelector("[data-of-usual]")?.addEventListener("click", () => set(""));
    for (const field of part.querySelectorAll("#menu-set select")) field.addEventListener("change", () => set());
    part.querySelector("#menu-set").addEventListener("submit", (e) => e.preventDefault());
    const t = tree();
    if (!t) return;
    const l = line();
    if (l) t.setAttribute("aria-activedescendant", l.id);
    t.addEventListener("click", (e) => {
      const on = e.target.closest(".m-line");
      if (on && e.target.closest("[data-twist]")) toggle(on);
      else choose(on);
    });
    t.addEventListener("dblclick", writeLabel);
    t.addEventListener("keydown", onKey);
    t.addEventListener("pointerdown", drag);
  }

  function onKey(e) {
    const l = line(),
      all = lines(),
      i = all.indexOf(l);
    const done = () => e.preventDefault();
    if ((e.ctrlKey || e.metaKey) && e.key.toLowerCase() === "z") {
      done();
      return run(e.shiftKey ? "redo" : "undo");
    }
    if ((e.ctrlKey || e.metaKey) && e.key.toLowerCase() === "y") {
      done();
      return run("redo");
    }
    if (e.ctrlKey || e.metaKey) return;
    if (e.altKey) {
      const what = { ArrowUp: "up", ArrowDown: "down", ArrowRight: "in", ArrowLeft: "out-step" }[e.key];
      if (what) {
        done();
        run(what);
      }
      return;
    }
    switch (e.key) {
      case "ArrowDown":
        choose(all[Math.min(i + 1, all.length - 1)]);
        break;
      case "ArrowUp":
        choose(all[Math.max(i - 1, 0)]);
        break;
      case "Home":
        choose(all[0]);
        break;
      case "End":
        choose(all.at(-1));
        break;
      case "ArrowRight":
        if (l?.getAttribute("aria-expanded") === "false") toggle(l);
        else if (l?.hasAttribute("aria-expanded")) choose(all[i + 1]);
        break;
      case "ArrowLeft":
        if (l?.getAttribute("aria-expanded") === "true") toggle(l);
        else choose(all.find((o) => o.dataset.key === l?.dataset.parent));
        break;
      case "Enter":
      case "F2":
        writeLabel();
        break;
      case "Delete":
        run("leave-out");
        break;
      case "i":
        run("let-in");
        break;
      case "b":
        run("back");
        break;
      case "a":
        document.getElementById("add-find").focus();
        break;
      case "?":
        run("keys");
        break;
      default:
        return;
    }
    done();
  }

  // Dragging: near an edge puts the item beside another, in the middle below it.
  function drag(e) {
    const l = e.target.closest(".m-line");
    if (!l || e.button !== 0 || e.target.closest("[data-twist]")) return;
    const y = e.clientY;
    let moving = false,
      target = null;
    const clear = () => lines().forEach((o) => o.classList.remove("into", "drop-after", "drop-before"));
    const below = (o) => {
      for (let p = o; p; p = lines().find((q) => q.dataset.key === p.dataset.parent)) if (p === l) return true;
      return false;
    };
    const move = (ev) => {
      if (!moving && Math.abs(ev.clientY - y) < 6) return;
      if (!moving) choose(l, true);
      moving = true;
      l.classList.add("dragged");
      clear();
      target = null;
      const over = document.elementFromPoint(ev.clientX, ev.clientY)?.closest(".m-line");
      if (!over || below(over)) return;
      const r = over.getBoundingClientRect(),
        at = (ev.clientY - r.top) / r.height;
      const how = at < 0.28 ? "before" : at > 0.72 || over.dataset.holds === undefined ? "after" : "into";
      over.classList.add(how === "into" ? "into" : "drop-" + how);
      target = { over, how };
    };
    const up = () => {
      document.removeEventListener("pointermove", move);
      document.removeEventListener("pointerup", up);
      document.removeEventListener("keydown", esc, true);
      clear();
      l.classList.remove("dragged");
      if (!moving || !target) return;
      const { over, how } = target,
        parent = over.dataset.parent;
      if (how === "into") return act({ do: "move", parent: over.dataset.key, last: true });
      const beside = lines().filter((o) => o.dataset.parent === parent && o !== l);
      act({
        do: "move",
        parent,
        after: how === "after" ? over.dataset.key : (beside[beside.indexOf(over) - 1]?.dataset.key ?? ""),
      });
    };
    const esc = (ev) => {
      if (ev.key === "Escape") {
        target = null;
        up();
      }
    };
    document.addEventListener("pointermove", move);
    document.addEventListener("pointerup", up);
    document.addEventListener("keydown", esc, true);
  }

  function wireItem() {
    for (const button of facts.querySelectorAll("[data-do]"))
      button.addEventListener("click", () => run(button.dataset.do, itemBeside()));
    const form = facts.querySelector("#item-form");
    if (!form) return;
    const of = facts.firstElementChild.dataset.item;
    const write = () =>
      act(
        {
          do: "say",
          item: of,
          title: form.title.value,
          url: form.url?.value ?? "",
          symbol: form.symbol.value,
          levels: Number(form.levels?.value ?? 0),
        },
        form,
        false,
      );
    form.addEventListener("change", write);
    form.addEventListener("submit", (e) => {
      e.preventDefault();
      tree()?.focus();
    });
    form.addEventListener("keydown", (e) => {
      if (e.key === "Escape") tree()?.focus();
    });
  }

  const find = document.getElementById("add-find"),
    as = document.getElementById("add-as");
  suggest(
    find,
    root.dataset.find,
    () => (document.getElementById("add-bare").checked ? { bare: 1 } : {}),
    async (item) => {
      find.value = "";
      const what = item.id
        ? { kind: as.value, entry: item.id }
        : { kind: item.kind, title: item.title, url: item.address };
      act({ do: "add", ...what, ...spot() }, null, false).then(() => find.focus());
    },
  );
  document.getElementById("add-label").addEventListener("submit", async (e) => {
    e.preventDefault();
    const f = e.target;
    if (
      await act(
        { do: "add", kind: f.url.value.trim() ? "link" : "label", title: f.title.value, url: f.url.value, ...spot() },
        f,
      )
    ) {
      f.reset();
      document.getElementById("add-own").open = false;
    }
  });
  document.getElementById("add-divider").addEventListener("click", async () => {
    if (await act({ do: "add", kind: "divider", ...spot() })) document.getElementById("add-own").open = false;
  });
  document.getElementById("add-own").addEventListener("toggle", (e) => {
    if (e.target.open) document.getElementById("add-words").focus();
  });
  for (const button of document.querySelectorAll("[data-menu-do]"))
    button.addEventListener("click", () => run(button.dataset.menuDo));
  look.onChange(remember);
  wire();
  wireItem();
  line()?.scrollIntoView({ block: "nearest" });
}

// How readers get a page: Next beside Live, in windows of a width, drawn smaller.
function startLook(box, atFoot) {
  const frames = [...box.querySelectorAll("iframe")],
    page = box.querySelector("#look-page"),
    as = box.querySelector("#look-as");
  let at = box.dataset.at,
    changed = () => {};
  const width = () => Number(box.querySelector("[data-width][aria-pressed=true]").dataset.width);

  function show(only) {
    for (const f of frames)
      if (!only || f.dataset.of === only)
        f.src = box.dataset.preview + "?" + new URLSearchParams({ of: f.dataset.of, at, as: as.value });
    fit();
  }
  function fit() {
    const w = width();
    box.classList.toggle("look-narrow", w < 600);
    for (const f of frames) {
      const room = f.parentElement.clientWidth,
        scale = Math.min(1, room / w);
      const tall = f.parentElement.clientHeight;
      f.style.width = w + "px";
      f.style.height = tall / scale + "px";
      f.style.transform = `scale(${scale})`;
    }
  }
  for (const f of frames)
    f.addEventListener("load", () => {
      if (atFoot()) f.contentDocument.fonts.ready.then(() => f.contentWindow.scrollTo(0, 1e6));
      // Links lead to the preview of what they lead to.
      f.contentDocument?.addEventListener("click", (e) => {
        const a = e.target.closest("a[href]");
        if (!a || a.getAttribute("href").startsWith("#")) return;
        e.preventDefault();
        const to = new URL(a.href);
        if (to.origin !== location.origin) return say("This link leads out of the site.");
        at = to.pathname;
        page.value = a.textContent.trim();
        show();
        changed();
      });
    });
  for (const button of box.querySelectorAll("[data-width]"))
    button.addEventListener("click", () => {
      for (const other of box.querySelectorAll("[data-width]")) other.setAttribute("aria-pressed", other === button);
      fit();
      changed();
    });
  as.addEventListener("change", () => {
    show();
    changed();
  });
  suggest(
    page,
    "/studio/find",
    () => ({ only: "page" }),
    (item) => {
      at = item.address;
      page.value = item.title;
      show();
      changed();
    },
  );
  page.addEventListener("focus", () => page.select());
  addEventListener("resize", fit);
  show();
  return {
    show,
    state: () => ({
      page: at === box.dataset.at ? "" : at,
      width: width() === 1280 ? "" : String(width()),
      as: as.value,
    }),
    onChange: (f) => {
      changed = f;
    },
  };
}
