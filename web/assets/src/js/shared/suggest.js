// Type-ahead for entries: by title, address or topic.
import { get, el } from "./say.js";

let count = 0;

export function suggest(input, url, params, choose) {
  const id = "suggest-" + ++count;
  let list,
    items = [],
    at = -1,
    turn = 0,
    timer,
    looking = false,
    eager = false;
  input.setAttribute("role", "combobox");
  input.setAttribute("aria-autocomplete", "list");
  input.setAttribute("aria-expanded", "false");

  const close = () => {
    turn++;
    list?.remove();
    list = null;
    input.setAttribute("aria-expanded", "false");
    input.removeAttribute("aria-activedescendant");
    input.removeAttribute("aria-controls");
  };
  const mark = (i) => {
    at = i;
    [...list.children].forEach((li, n) => li.setAttribute("aria-selected", n === i));
    if (i >= 0) {
      list.children[i].scrollIntoView({ block: "nearest" });
      input.setAttribute("aria-activedescendant", list.children[i].id);
    }
  };
  const take = (i) => {
    const item = items[i];
    close();
    choose(item);
  };
  const look = async () => {
    const mine = ++turn;
    const query = new URLSearchParams({ q: input.value.trim(), ...params() });
    let found;
    try {
      found = (await get(url + "?" + query)).found;
    } catch {
      return;
    }
    if (mine !== turn || document.activeElement !== input) return;
    close();
    looking = false;
    items = found;
    at = -1;
    if (eager) {
      eager = false;
      if (items.length) return choose(items[0]);
    }
    if (!items.length) return;
    list = el(
      "ul",
      { class: "suggest", role: "listbox", id, "aria-label": "Pages found" },
      ...items.map((item, i) =>
        el(
          "li",
          {
            role: "option",
            id: id + "-" + i,
            "aria-selected": "false",
            onmousedown: (e) => {
              e.preventDefault();
              take(i);
            },
          },
          item.title,
          el("small", {}, [item.trail, item.address || item.kind].filter(Boolean).join(" · ")),
        ),
      ),
    );
    const box = input.getBoundingClientRect();
    document.body.append(list);
    list.style.left = Math.min(box.left, innerWidth - 320) + "px";
    list.style.width = Math.max(box.width, 300) + "px";
    const room = innerHeight - box.bottom,
      above = list.offsetHeight > room - 8 && box.top > room; // where there is more
    list.style.top = (above ? Math.max(8, box.top - 4 - list.offsetHeight) : box.bottom + 4) + scrollY + "px";
    input.setAttribute("aria-expanded", "true");
    input.setAttribute("aria-controls", id);
    mark(0);
  };
  // What was found for older words is never taken: Enter waits for the new.
  input.addEventListener("input", () => {
    close();
    looking = true;
    clearTimeout(timer);
    timer = setTimeout(look, 80);
  });
  input.addEventListener("focus", look);
  input.addEventListener("blur", () => {
    eager = looking = false;
    close();
  });
  input.addEventListener("keydown", (e) => {
    if (!list) {
      if (e.key === "ArrowDown") look();
      if (e.key === "Enter" && looking && input.value.trim()) {
        eager = true;
        e.preventDefault();
        e.stopPropagation();
      }
      return;
    }
    if (e.key === "ArrowDown") mark(Math.min(at + 1, items.length - 1));
    else if (e.key === "ArrowUp") mark(Math.max(at - 1, 0));
    else if (e.key === "Enter" && at >= 0) take(at);
    else if (e.key === "Escape") close();
    else return;
    e.preventDefault();
    e.stopPropagation();
  });
}
