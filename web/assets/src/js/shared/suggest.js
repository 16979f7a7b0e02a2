// Type-ahead for entries: by title, address or topic. What a field knows is one object, s.
import { get, el } from "./say.js";

let count = 0;

// Pages that were chosen last, in this browser: they come first as long as nothing is typed. Then what fits best does.
const recentKey = "candlepath:chosen",
  mostRecent = 12;

function recent() {
  try {
    const ids = JSON.parse(localStorage.getItem(recentKey));
    return Array.isArray(ids) ? ids.filter((id) => typeof id === "string") : [];
  } catch {
    return [];
  }
}

function keepRecent(id) {
  if (!id) return;
  try {
    localStorage.setItem(recentKey, JSON.stringify([id, ...recent().filter((r) => r !== id)].slice(0, mostRecent)));
  } catch {
    /* nothing is kept */
  }
}

export function suggest(input, url, params, choose) {
  const s = {
    input,
    url,
    params,
    choose,
    id: "suggest-" + ++count,
    items: [],
    at: -1, // the item that is marked
    turn: 0,
    looking: false,
    eager: false, // Enter was pressed before the answer came
  };
  s.input.setAttribute("role", "combobox");
  s.input.setAttribute("aria-autocomplete", "list");
  s.input.setAttribute("aria-expanded", "false");
  // What was found for older words is never taken: Enter waits for the new.
  s.input.addEventListener("input", () => {
    close(s);
    s.looking = true;
    clearTimeout(s.timer);
    s.timer = setTimeout(() => look(s), 80);
  });
  s.input.addEventListener("focus", () => look(s));
  s.input.addEventListener("blur", () => {
    s.eager = s.looking = false;
    close(s);
  });
  s.input.addEventListener("keydown", (e) => {
    if (!s.list) {
      if (e.key === "ArrowDown") look(s);
      if (e.key === "Enter" && s.looking && s.input.value.trim()) {
        s.eager = true;
        e.preventDefault();
        e.stopPropagation();
      }
      return;
    }
    if (e.key === "ArrowDown") mark(s, Math.min(s.at + 1, s.items.length - 1));
    else if (e.key === "ArrowUp") mark(s, Math.max(s.at - 1, 0));
    else if (e.key === "Enter" && s.at >= 0) take(s, s.at);
    else if (e.key === "Escape") close(s);
    else return;
    e.preventDefault();
    e.stopPropagation();
  });
}

const close = (s) => {
  s.turn++;
  s.list?.remove();
  s.list = null;
  s.input.setAttribute("aria-expanded", "false");
  s.input.removeAttribute("aria-activedescendant");
  s.input.removeAttribute("aria-controls");
};

const mark = (s, i) => {
  s.at = i;
  [...s.list.children].forEach((li, n) => li.setAttribute("aria-selected", n === i));
  if (i >= 0) {
    s.list.children[i].scrollIntoView({ block: "nearest" });
    s.input.setAttribute("aria-activedescendant", s.list.children[i].id);
  }
};

const take = (s, i) => {
  const item = s.items[i];
  keepRecent(item.id);
  close(s);
  s.choose(item);
};

const look = async (s) => {
  const mine = ++s.turn;
  const ids = recent(),
    query = new URLSearchParams({ q: s.input.value.trim(), ...s.params() });
  if (!s.input.value.trim() && ids.length) query.set("recent", ids.join(","));
  let found;
  try {
    found = (await get(s.url + "?" + query)).found;
  } catch {
    return;
  }
  if (mine !== s.turn || document.activeElement !== s.input) return;
  close(s);
  s.looking = false;
  s.items = found;
  s.at = -1;
  if (s.eager) {
    s.eager = false;
    if (s.items.length) return s.choose(s.items[0]);
  }
  if (!s.items.length) return;
  s.list = el(
    "ul",
    { class: "suggest", role: "listbox", id: s.id, "aria-label": "Pages found" },
    ...s.items.map((item, i) =>
      el(
        "li",
        {
          role: "option",
          id: s.id + "-" + i,
          "aria-selected": "false",
          onmousedown: (e) => {
            e.preventDefault();
            take(s, i);
          },
        },
        item.title,
        el("small", {}, [item.trail, item.address || item.kind].filter(Boolean).join(" · ")),
      ),
    ),
  );
  const box = s.input.getBoundingClientRect();
  document.body.append(s.list);
  s.list.style.left = Math.min(box.left, innerWidth - 320) + "px";
  s.list.style.width = Math.max(box.width, 300) + "px";
  const room = innerHeight - box.bottom,
    above = s.list.offsetHeight > room - 8 && box.top > room; // where there is more
  s.list.style.top = (above ? Math.max(8, box.top - 4 - s.list.offsetHeight) : box.bottom + 4) + scrollY + "px";
  s.input.setAttribute("aria-expanded", "true");
  s.input.setAttribute("aria-controls", s.id);
  mark(s, 0);
};
