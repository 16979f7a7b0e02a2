// Pictures and files of the site: chosen from what is there, or brought from this computer.
import { el, get, say, Refusal } from "../shared/say.js";

export function makeFiles(x) {
  return {
    upload: (file) => upload(x, file),
    field: (f, value, put, of) => field(x, f, value, put, of),
  };
}

// upload sends a file and gives what the site keeps of it: address, name, and of pictures width and height.
export async function upload(x, file) {
  const form = new FormData();
  form.append("file", file);
  let answer;
  try {
    answer = await fetch(x.data.upload, { method: "POST", headers: { Accept: "application/json" }, body: form });
  } catch {
    throw new Refusal(undefined, { error: `"${file.name}" was not sent: the server does not answer.` });
  }
  const body = await answer.json().catch(() => ({}));
  if (!answer.ok) throw new Refusal(answer.status, body);
  return body;
}

const nameOf = (address) => (address || "").split("/").at(-1);

function field(x, f, value, put) {
  const picture = f.type === "picture",
    shown = el("span", { class: "kept-file" }),
    file = el("input", { type: "file", hidden: true, accept: picture ? "image/*" : null }),
    bring = el(
      "button",
      { type: "button", class: "btn", "aria-label": `${f.label}: from this computer` },
      "From this computer…",
    ),
    pick = el(
      "button",
      { type: "button", class: "btn", "aria-haspopup": "dialog", "aria-label": `${f.label}: from the site` },
      "From the site…",
    ),
    drop = el("button", { type: "button", class: "btn", "aria-label": `${f.label}: none` }, "None");
  const set = (v) => {
    shown.replaceChildren(...(v && picture ? [el("img", { src: v, alt: "" })] : []), v ? nameOf(v) : "none yet");
    drop.hidden = !v;
  };
  const use = (v) => {
    set(v);
    put(v);
  };
  bring.addEventListener("click", () => file.click());
  file.addEventListener("change", async () => {
    const [chosen] = file.files;
    file.value = "";
    if (!chosen) return;
    shown.textContent = `Sending ${chosen.name} …`;
    try {
      use((await upload(x, chosen)).address);
    } catch (problem) {
      set("");
      say(problem.message, true);
    }
  });
  pick.addEventListener("click", () => askFile(x, pick, picture, use));
  drop.addEventListener("click", () => use(""));
  set(value);
  return {
    dom: el(
      "div",
      { class: "file-field", role: "group", "aria-label": f.label },
      el("p", { class: "field-label" }, f.label),
      shown,
      el("span", { class: "acts" }, bring, pick, drop, file),
    ),
    set,
    labelled: true,
  };
}

// The type of what is dragged out of the picker.
export const carried = "application/x-candle-file";

// carry drags a file of the site out of its picker onto the page; the picker makes room for that.
function carry(event, it, dialog) {
  event.dataTransfer.setData(carried, JSON.stringify({ address: it.address, name: it.name, width: it.width }));
  event.dataTransfer.effectAllowed = "copy";
  setTimeout(() => dialog.close());
}

// askFile shows the files of the site beside a button, the newest first, filtered by typing.
function askFile(x, anchor, picture, take) {
  const find = el("input", {
      class: "in",
      type: "search",
      "aria-label": "Find a file",
      placeholder: "Find by name",
      autocomplete: "off",
    }),
    list = el("ul", { class: picture ? "file-grid" : "file-list" });
  const close = el("button", { type: "button", class: "btn", onclick: () => dialog.close() }, "Cancel");
  const dialog = el(
    "dialog",
    { class: "file-picker", "aria-label": picture ? "Pictures of the site" : "Files of the site" },
    find,
    el("p", { class: "small quiet" }, "Choose one, or drag it to its place on the page."),
    list,
    close,
  );
  let turn = 0;
  async function look() {
    const mine = ++turn;
    try {
      const { found } = await get(
        x.data.files + "?" + new URLSearchParams({ q: find.value, only: picture ? "picture" : "" }),
      );
      if (mine !== turn) return;
      list.replaceChildren(
        ...found.map((it) =>
          el(
            "li",
            {},
            el(
              "button",
              {
                type: "button",
                draggable: "true",
                onclick: () => (dialog.close(), take(it.address)),
                ondragstart: (e) => carry(e, it, dialog),
              },
              picture ? el("img", { src: it.address, alt: "", loading: "lazy" }) : null,
              el("span", {}, it.name, " ", el("span", { class: "quiet" }, it.told)),
            ),
          ),
        ),
        ...(found.length ? [] : [el("li", { class: "quiet" }, "Nothing of this name. Bring one from this computer.")]),
      );
    } catch (problem) {
      say(problem.message, true);
    }
  }
  find.addEventListener("input", look);
  dialog.addEventListener("close", () => {
    dialog.remove();
    anchor.focus();
  });
  document.body.append(dialog);
  dialog.showModal();
  look();
}
