// Acts on Next, with their consequences and the facts beside: what the outline
// and the map share. A view says what is chosen and how it shows an answer.
import { say, post, fragment, key } from "./say.js";
import { suggest } from "./suggest.js";

// view: selected(), chosen() the ids acted on, version(), home(), settle(answer), reload(), draw(),
// focus(), run(what, button) for a button beside.
export function planner(root, view) {
  let queue = Promise.resolve(), pending = null, besideTimer, besideTurn = 0, shelfTimer;
  const box = () => document.getElementById("beside");
  const many = () => view.chosen().length > 1;
  const on = () => (many() ? { ids: view.chosen() } : { id: view.selected() });

  function showFacts() {
    clearTimeout(besideTimer);
    besideTimer = setTimeout(async () => {
      const id = view.selected(), mine = ++besideTurn;
      if (!id || pending) return;
      const facts = await fragment(root.dataset.beside + (many() ? "?many=" + view.chosen().length + (view.chosen().length === 2 ? "&of=" + view.chosen().map(encodeURIComponent).join("&of=") : "") : "?id=" + encodeURIComponent(id)));
      if (facts === null || mine !== besideTurn || pending) return;
      if (document.activeElement?.id === "move-find" && (many() ? box().querySelector("[data-many]") : box().querySelector("[data-entry]")?.dataset.entry === id)) return; // somebody is about to move this
      const kept = document.activeElement?.id, within = box().contains(document.activeElement);
      box().innerHTML = facts;
      wireFacts();
      if (within && kept) document.getElementById(kept)?.focus();
    }, 90);
  }

  function wireFacts() {
    for (const field of box().querySelectorAll("[data-act-do]")) {
      if (field.hasAttribute("data-find-page")) {
        suggest(field, root.dataset.find, () => ({ only: "page", not: view.selected() }), (item) => act({ do: "fact", field: "target", id: view.selected(), value: item.id }));
        continue;
      }
      field.addEventListener("change", () => act({ do: field.dataset.actDo, field: field.dataset.field || "", ...on(), value: field.value }));
    }
    for (const button of box().querySelectorAll("[data-do]")) button.addEventListener("click", () => view.run(button.dataset.do, button));
    const find = box().querySelector("#move-find");
    if (find) {
      suggest(find, root.dataset.find, () => ({ only: "holder" }), (item) => moveBelow(item.id));
      find.addEventListener("keydown", (e) => { if (e.key === "Enter" && !find.value.trim()) moveBelow(""); if (e.key === "Escape") view.focus(); });
    }
  }

  function moveBelow(parent) {
    if (parent === view.home()) parent = "";
    act({ do: "move", ...on(), parent, last: true });
  }

  function askMove() {
    const to = document.querySelector("[data-move-to]");
    if (to) { to.hidden = false; to.querySelector("input").focus(); }
  }

  const act = (form) => (queue = queue.then(() => perform(form)).catch(() => {}));

  async function perform(form) {
    pending = null;
    form = { key: key(), ...form, seen: view.version() };
    let answer;
    try {
      answer = await post(root.dataset.act, form);
    } catch (problem) {
      say(problem.message, true);
      if (problem.status === 409 || problem.status === undefined) await view.reload();
      if (problem.status !== 422) showFacts(); // what was refused stays in its field
      return null;
    }
    if (answer.confirm) ask(form, answer);
    else await settle(answer, form);
    return answer;
  }

  async function settle(answer, form) {
    await view.settle(answer, form);
    showFacts();
    if (answer.say) say(answer.say);
    updateShelf();
  }

  function updateShelf() {
    clearTimeout(shelfTimer);
    shelfTimer = setTimeout(async () => {
      const html = await fragment(root.dataset.shelf + "?stop=Sitemap");
      if (html === null) return;
      const page = new DOMParser().parseFromString(html, "text/html");
      const open = document.querySelector("#shelf details")?.open;
      for (const id of ["stops", "shelf"]) document.getElementById(id)?.replaceWith(page.getElementById(id));
      document.querySelector("#shelf details")?.toggleAttribute("open", !!open);
    }, 250);
  }

  function ask(form, answer) {
    pending = { id: form.id, form };
    view.draw();
    box().innerHTML = answer.confirm;
    box().querySelector("[data-confirm-yes]").addEventListener("click", confirmPending);
    box().querySelector("[data-confirm-no]").addEventListener("click", leavePending);
    box().querySelector("[data-confirm-yes]").focus();
    say("Look at what this does, then confirm it or leave it.");
  }
  box().addEventListener("keydown", (e) => { if (pending && e.key === "Escape") leavePending(); });

  function confirmPending() {
    const form = pending?.form;
    if (form) act({ ...form, key: key(), confirmed: true }).then(() => view.focus());
  }
  function leavePending() {
    pending = null;
    view.draw();
    showFacts();
    view.focus();
    say("Left as it was.");
  }

  async function stepBack(what) {
    try {
      await settle(await post(what === "undo" ? root.dataset.undo : root.dataset.redo, {}));
    } catch (problem) {
      say(problem.message, problem.status !== 409);
      if (problem.status === 409) await view.reload();
    }
  }

  // run does what a button beside, or a key, asks for, and tells whether it knows it.
  function run(what, button) {
    const id = view.selected();
    switch (what) {
      case "undo": case "redo": stepBackNext(what); return true;
      case "move": askMove(); return true;
      case "remove": case "withdraw": case "return": if (id) act({ do: what, ...on() }).then(() => pending || view.focus()); return true;
      case "copy": case "sort": case "sort-all": if (id) act({ do: what, id, value: button?.value || "" }).then(() => view.focus()); return true;
      case "refer": act({ do: what, id: button.dataset.gone, value: button.dataset.kept }); return true;
      case "mend": if (id) act({ do: what, field: button.value, id }); return true;
    }
    return false;
  }
  const stepBackNext = (what) => (queue = queue.then(() => stepBack(what)));

  return {
    act, on, run, many, showFacts, updateShelf, askMove,
    pending: () => pending, dropPending: () => { pending = null; }, confirmPending, leavePending,
  };
}
