// How readers get a page: Next beside Live, in windows of a width, drawn smaller. What it knows is one object, x.
import { say } from "../shared/say.js";
import { suggest } from "../shared/suggest.js";

export function startLook(box, atFoot) {
  const x = {
    box,
    atFoot,
    frames: [...box.querySelectorAll("iframe")],
    page: box.querySelector("#look-page"),
    as: box.querySelector("#look-as"),
    at: box.dataset.at,
    changed: () => {},
  };
  for (const f of x.frames)
    f.addEventListener("load", () => {
      if (x.atFoot()) f.contentDocument.fonts.ready.then(() => f.contentWindow.scrollTo(0, 1e6));
      f.contentDocument?.addEventListener("click", (e) => followLink(x, e));
    });
  for (const button of x.box.querySelectorAll("[data-width]"))
    button.addEventListener("click", () => {
      for (const other of x.box.querySelectorAll("[data-width]")) other.setAttribute("aria-pressed", other === button);
      fit(x);
      x.changed();
    });
  x.as.addEventListener("change", () => {
    show(x);
    x.changed();
  });
  suggest(
    x.page,
    "/studio/find",
    () => ({ only: "page" }),
    (item) => showAt(x, item.address, item.title),
  );
  x.page.addEventListener("focus", () => x.page.select());
  addEventListener("resize", () => fit(x));
  show(x);
  return {
    show: (only) => show(x, only),
    state: () => ({
      page: x.at === x.box.dataset.at ? "" : x.at,
      width: width(x) === 1280 ? "" : String(width(x)),
      as: x.as.value,
    }),
    onChange: (f) => {
      x.changed = f;
    },
  };
}

// followLink leads a link of a preview to the preview of what it leads to.
function followLink(x, e) {
  const a = e.target.closest("a[href]");
  if (!a || a.getAttribute("href").startsWith("#")) return;
  e.preventDefault();
  const to = new URL(a.href);
  if (to.origin !== location.origin) return say("This link leads out of the site.");
  showAt(x, to.pathname, a.textContent.trim());
}

function showAt(x, address, title) {
  x.at = address;
  x.page.value = title;
  show(x);
  x.changed();
}

const width = (x) => Number(x.box.querySelector("[data-width][aria-pressed=true]").dataset.width);

function show(x, only) {
  for (const f of x.frames)
    if (!only || f.dataset.of === only)
      f.src = x.box.dataset.preview + "?" + new URLSearchParams({ of: f.dataset.of, at: x.at, as: x.as.value });
  fit(x);
}

function fit(x) {
  const w = width(x);
  x.box.classList.toggle("look-narrow", w < 600);
  for (const f of x.frames) {
    const room = f.parentElement.clientWidth,
      scale = Math.min(1, room / w);
    const tall = f.parentElement.clientHeight;
    f.style.width = w + "px";
    f.style.height = tall / scale + "px";
    f.style.transform = `scale(${scale})`;
  }
}
