// What makes the menus of the reader site handier. Without it they are all there
// and open.
const narrow = matchMedia("(max-width: 720px)");

// disclose gives a box a button that shows and hides it.
function disclose(button, box, open, then) {
  const set = (now) => {
    button.setAttribute("aria-expanded", String(now));
    box.hidden = !now;
    then?.(now);
  };
  button.addEventListener("click", () => set(button.getAttribute("aria-expanded") !== "true"));
  set(open);
  return set;
}

function buttonFor(id, words, cls) {
  const button = document.createElement("button");
  button.type = "button";
  button.className = cls;
  button.setAttribute("aria-controls", id);
  button.textContent = words;
  return button;
}

// On a small screen the top menu waits behind a button.
const top_ = document.querySelector(".top-menu > ul");
if (top_) {
  top_.id = "top-menu-list";
  const button = buttonFor(top_.id, "Menu", "menu-button");
  top_.before(button);
  const set = disclose(button, top_, !narrow.matches);
  narrow.addEventListener("change", () => set(!narrow.matches));
  top_.parentElement.addEventListener("keydown", (e) => {
    if (e.key !== "Escape") return;
    const group = e.target.closest("details[open]");
    if (group) {
      group.open = false;
      group.querySelector("summary").focus();
    } else if (narrow.matches) {
      set(false);
      button.focus();
    }
  });
}

// One group of the top menu is open at a time; a click elsewhere closes it.
const groups = [...document.querySelectorAll(".top-menu details")];
for (const group of groups)
  group.addEventListener("toggle", () => {
    if (!group.open) return;
    for (const other of groups) if (other !== group) other.open = false;
    const list = group.querySelector("ul");
    list.classList.remove("leftward");
    list.classList.toggle(
      "leftward",
      !narrow.matches && list.getBoundingClientRect().right > document.documentElement.clientWidth,
    );
  });
document.addEventListener("click", (e) => {
  for (const group of groups) if (!group.contains(e.target)) group.open = false;
});

// The side menu can be put away, and stays so on the next page.
const side = document.querySelector(".side-menu");
if (side) {
  const list = side.querySelector("ul"),
    kept = "side-menu";
  list.id = "side-menu-list";
  const button = buttonFor(list.id, "", "side-button");
  side.querySelector(".side-head").append(button);
  let open = true;
  try {
    open = localStorage.getItem(kept) !== "away";
  } catch {
    /* nothing is kept */
  }
  disclose(button, list, open, (now) => {
    button.textContent = now ? "Hide" : "Show";
    button.setAttribute("aria-label", (now ? "Hide" : "Show") + " what is in this part");
    try {
      localStorage.setItem(kept, now ? "there" : "away");
    } catch {
      /* nothing is kept */
    }
  });
}

// --- where this reader left off ---

// The pages that were opened last are kept in this browser and nowhere else; lists and boards that show them are filled
// here, and stay hidden where there are none.
const openedKey = "candlepath:opened",
  mostOpened = 60;

function opened() {
  try {
    const list = JSON.parse(localStorage.getItem(openedKey));
    return Array.isArray(list) ? list.filter((p) => typeof p.path === "string" && p.path.startsWith("/")) : [];
  } catch {
    return [];
  }
}

function fillOpened(list) {
  for (const box of document.querySelectorAll("[data-opened]")) {
    const shown = list.filter((p) => p.path !== location.pathname).slice(0, +box.dataset.opened);
    for (const p of shown) {
      const a = document.createElement("a"),
        li = document.createElement("li");
      a.href = p.path;
      a.textContent = p.title;
      if (box.classList.contains("tiles")) li.className = "tile";
      li.append(a);
      box.append(li);
    }
    box.hidden = !shown.length;
    const none = box.nextElementSibling;
    if (none?.matches("[data-opened-none]")) none.hidden = !!shown.length;
  }
}

function keepOpened(list) {
  const title = document.querySelector("main .article") && document.querySelector("main h1")?.textContent;
  if (!title || self !== top) return; // only pages, and not in previews
  const here = { path: location.pathname, title };
  try {
    localStorage.setItem(
      openedKey,
      JSON.stringify([here, ...list.filter((p) => p.path !== here.path)].slice(0, mostOpened)),
    );
  } catch {
    /* nothing is kept */
  }
}

const before = opened();
fillOpened(before);
keepOpened(before);
