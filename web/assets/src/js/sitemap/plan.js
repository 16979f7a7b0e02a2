// Acts on Next, with their consequences and the facts beside: what the outline
// and the map share. What they know is one object, p. A view says what is chosen and how it shows an answer.
import { say, mention, post, fragment, key } from "../shared/say.js";
import { planChanged } from "../shared/shelf.js";
import { chips } from "../shared/chips.js";
import { spellDates } from "../shared/dates.js";
import { swap } from "../shared/swap.js";
import { bothNote } from "../shared/both.js";
import { suggest } from "../shared/suggest.js";
import { runOf, pause, onThisComputer } from "../shared/waiting.js";

// view: selected(), chosen() the ids acted on, version(), home(), settle(answer), reload(), draw(),
// focus(), run(what, button) for a button beside; busy() while somebody types; holds() while something is dragged; added(answer, forms) and refused(form, words)
// where entries are added.
export function planner(root, view) {
  const p = {
    root,
    view,
    waiting: [], // acts that are not answered yet
    computer: onThisComputer(root.dataset.person || ""),
    refused: new Map(), // of an entry and a field: what was typed there and not taken
    working: false,
    pending: null, // the act whose consequences are shown
    shown: "", // whose facts stand beside
    besideTurn: 0,
    going: false, // to the first field or button of what is chosen, as soon as it is there
    moving: false, // opens the field for where to move to, as soon as the facts of what is chosen are there
  };
  box().addEventListener("keydown", (e) => {
    if (p.pending && e.key === "Escape") leavePending(p);
  });

  return {
    act: (form) => act(p, form),
    on: () => on(p),
    run: (what, button) => run(p, what, button),
    many: () => many(p),
    showFacts: () => showFacts(p),
    goToFacts: () => goToFacts(p),
    askMove: () => askMove(p),
    takeUp: () => takeUp(p),
    watch: () => watch(p),
    pending: () => p.pending,
    dropPending: () => {
      p.pending = null;
    },
    confirmPending: () => confirmPending(p),
    leavePending: () => leavePending(p),
  };
}

const box = () => document.getElementById("beside");

const many = (p) => p.view.chosen().length > 1;

const on = (p) => (many(p) ? { ids: p.view.chosen() } : { id: p.view.selected() });

function showFacts(p) {
  window.dispatchEvent(new CustomEvent("here-at", { detail: { entry: p.view.selected() || "" } }));
  clearTimeout(p.besideTimer);
  p.besideTimer = setTimeout(async () => {
    const id = p.view.selected(),
      mine = ++p.besideTurn;
    if (!id || p.pending || p.view.busy?.()) return;
    if (p.waiting.some((item) => !isAdding(item))) return; // facts are shown when that is done
    const facts = await fragment(
      p.root.dataset.beside +
        (many(p)
          ? "?many=" +
            p.view.chosen().length +
            (p.view.chosen().length === 2 ? "&of=" + p.view.chosen().map(encodeURIComponent).join("&of=") : "")
          : "?id=" + encodeURIComponent(id)),
    );
    if (facts === null || mine !== p.besideTurn || p.pending) return;
    const at = document.activeElement,
      within = box().contains(at),
      same = many(p) ? box().querySelector("[data-many]") : box().querySelector("[data-entry]")?.dataset.entry === id;
    if (same && within && (at.id === "move-find" || isWriting(at)))
      return at.addEventListener("blur", () => showFacts(p), { once: true }); // nothing typed is taken away
    if (facts !== p.shown) {
      swap(box(), (p.shown = facts));
      wireFacts(p);
      window.dispatchEvent(new Event("facts-shown"));
    }
    offerAgain(p, id);
    if (p.going) goToFacts(p);
    if (p.moving) askMove(p);
  }, 90);
}

// isWriting tells that what stands in a field has not been asked for yet.
const isWriting = (e) => e.matches("input, textarea") && e.value !== e.defaultValue && e.value !== e.dataset.asked;

// stood is what a field was shown with.
const stood = (field) =>
  field.dataset.stood ??
  (field instanceof HTMLSelectElement
    ? ([...field.options].find((o) => o.defaultSelected) || field.options[0])?.value
    : field.defaultValue);

function wireFacts(p) {
  spellDates(box());
  const of = box().querySelector("[data-entry]")?.dataset.entry; // another entry may be chosen when something is written
  const target = () => (of ? { id: of } : on(p));
  for (const field of box().querySelectorAll("[data-act-do]")) {
    if (field.hasAttribute("data-find-page")) {
      suggest(
        field,
        p.root.dataset.find,
        () => ({ only: "page", not: of }),
        (item) => act(p, { do: "fact", field: "target", id: of, value: item.id }),
      );
      continue;
    }
    if (field.hasAttribute("data-chips")) chips(field);
    field.addEventListener("change", async () => {
      const value = (field.dataset.asked = field.value),
        place = `${of || p.view.selected()} ${field.id}`;
      const answer = await act(p, {
        do: field.dataset.actDo,
        field: field.dataset.field || "",
        ...target(),
        value,
        was: stood(field),
      });
      if (answer === null) return p.refused.set(place, { value, both: p.both });
      field.dataset.stood = value; // until the facts are drawn again
      p.refused.delete(place);
      field.removeAttribute("aria-invalid");
    });
  }
  for (const button of box().querySelectorAll("[data-do]"))
    button.addEventListener("click", () => p.view.run(button.dataset.do, button));
  const find = box().querySelector("#move-find");
  if (find) {
    suggest(
      find,
      p.root.dataset.find,
      () => ({ only: "holder" }),
      (item) => moveBelow(p, item.id),
    );
    find.addEventListener("keydown", (e) => {
      if (e.key === "Enter" && !find.value.trim()) moveBelow(p, "");
      if (e.key === "Escape") p.view.focus();
    });
  }
}

function goToFacts(p) {
  const shownOf = box().querySelector("[data-entry]")?.dataset.entry;
  p.going = !many(p) && shownOf !== p.view.selected();
  if (!p.going) box().querySelector("input:not([hidden]), select, button")?.focus();
}

// offerAgain puts what was typed and refused back into its field.
function offerAgain(p, id) {
  for (const field of box().querySelectorAll("[data-act-do]")) {
    const place = `${id} ${field.id}`,
      refused = p.refused.get(place);
    if (refused === undefined) continue;
    field.setAttribute("aria-invalid", "true");
    field.value = refused.value;
    field.dispatchEvent(new Event("chips:again"));
    if (refused.both && !document.getElementById(field.id + "-both")) offerBoth(p, id, field, refused, place);
  }
}

// offerBoth shows under a field what somebody else wrote there first, beside what was typed.
function offerBoth(p, id, field, { value, both }, place) {
  const mine = async () => {
    const form = { do: field.dataset.actDo, field: field.dataset.field || "", id, value, was: both.theirs };
    if ((await act(p, form)) !== null) p.refused.delete(place);
  };
  const theirs = () => {
    p.refused.delete(place);
    field.value = field.defaultValue;
    field.removeAttribute("aria-invalid");
    field.removeAttribute("aria-describedby");
    field.dispatchEvent(new Event("chips:again"));
    field.focus();
  };
  const note = bothNote(both, mine, theirs);
  note.id = field.id + "-both";
  field.setAttribute("aria-describedby", note.id);
  (field.nextElementSibling?.matches(".chips, .day-words") ? field.nextElementSibling : field).after(note);
}

function moveBelow(p, parent) {
  if (parent === p.view.home()) parent = "";
  act(p, { do: "move", ...on(p), parent, last: true }).then(() => p.pending || p.view.focus());
}

function askMove(p) {
  const of = box().querySelector(many(p) ? "[data-many]" : "[data-entry]"),
    to = box().querySelector("[data-move-to]");
  p.moving = !of || (!many(p) && of.dataset.entry !== p.view.selected());
  if (!p.moving && to) {
    to.hidden = false;
    to.querySelector("input").focus();
  }
}

// act asks for one act. Acts are done in their order; entries to be added go several at a time, and wait on this
// computer until the server has them.
function act(p, form) {
  p.besideTurn++; // facts that are on their way are older than this act
  return new Promise((resolve) => {
    p.waiting.push({ form: { key: key(), ...form }, resolve });
    keep(p);
    work(p);
  });
}

const later = (p, run) =>
  new Promise((resolve) => {
    p.waiting.push({ run, resolve });
    work(p);
  });

const isAdding = (item) => item.form?.do === "add" && item.form.new;

const keep = (p) => p.computer.write(p.waiting.filter(isAdding).map((item) => item.form));

async function work(p) {
  if (p.working) return;
  p.working = true;
  while (p.waiting.length) {
    const items = runOf(p.waiting);
    if (isAdding(items[0])) await performAdds(p, items);
    else {
      const [item] = items,
        done = await (item.run ? item.run() : perform(p, item.form)).catch(() => null);
      p.waiting.splice(p.waiting.indexOf(item), 1);
      item.resolve(done);
    }
    keep(p);
  }
  p.working = false;
}

// known is what this window knows, so that an answer brings what others did since.
const known = (p) => ({ seen: p.view.version(), edition: p.view.edition() });

// performAdds sends entries until the server has answered, under the same keys, so that none is added twice.
async function performAdds(p, items) {
  for (let n = 0; ; n++) {
    let answer = null,
      words = "";
    try {
      answer = await post(p.root.dataset.act, {
        acts: items.map((item) => ({ ...item.form, ...known(p) })),
      });
    } catch (problem) {
      if (problem.status === undefined || problem.status >= 500 || problem.status === 401) {
        const many = p.waiting.filter(isAdding).length;
        say(
          problem.status === 401
            ? problem.message
            : `Not connected. ${many === 1 ? "1 new entry waits" : many + " new entries wait"} on this computer.`,
          true,
        );
        await new Promise((go) => setTimeout(go, pause(n)));
        continue;
      }
      words = problem.message;
    }
    const reasons = Object.fromEntries(
      items
        .filter((item) => words || answer.refused?.[item.form.key])
        .map((item) => [item.form.key, words || answer.refused[item.form.key]]),
    );
    const done = items.filter((item) => !(item.form.key in reasons));
    p.waiting.splice(0, items.length);
    if (answer?.reload) await p.view.reload();
    if (answer)
      await p.view.added(
        answer,
        done.map((item) => item.form),
      );
    for (const item of items) {
      if (item.form.key in reasons) p.view.refused(item.form, reasons[item.form.key]);
      item.resolve(item.form.key in reasons ? null : answer);
    }
    if (n > 0 && done.length === items.length) say("Connected again; everything is saved.");
    planChanged();
    return;
  }
}

// What was left on this computer by a window that was closed too early.
function takeUp(p) {
  const forms = p.computer.read();
  for (const form of forms) p.waiting.push({ form, resolve() {} });
  if (forms.length) work(p);
  return forms;
}

// Others' acts come in while nothing of one's own is on its way: as they are told of, and where that does not get through,
// as one looks.
async function watch(p) {
  for (;;) {
    await told(1400);
    if (!p.root.isConnected) return;
    if (document.hidden || p.working || p.pending || p.view.holds?.()) continue;
    const answer = await news(p);
    if (!answer || p.working || p.pending || p.view.holds?.()) continue;
    if (answer.reload) await p.view.reload();
    else await p.view.others(answer);
    if (answer.say) mention(answer.say);
    showFacts(p);
    planChanged();
  }
}

const told = (atLatest) =>
  new Promise((go) => {
    const timer = setTimeout(go, atLatest);
    window.addEventListener(
      "live-plan",
      () => {
        clearTimeout(timer);
        go();
      },
      { once: true },
    );
  });

const news = async (p) => {
  try {
    const answer = await fetch(`${p.root.dataset.since}?version=${p.view.version()}&edition=${p.view.edition()}`, {
      headers: { Accept: "application/json" },
    });
    return answer.status === 200 ? await answer.json() : null;
  } catch {
    return null; // the next time tells
  }
};

async function perform(p, form) {
  p.pending = p.both = null;
  form = { key: key(), ...form, ...known(p) };
  let answer;
  try {
    answer = await post(p.root.dataset.act, form);
  } catch (problem) {
    say(problem.message, true);
    p.both = problem.body?.both;
    if (problem.status === 409 || problem.status === undefined) await p.view.reload();
    showFacts(p); // what was refused is offered again in its field
    return null;
  }
  if (answer.confirm) ask(p, form, answer);
  else await settle(p, answer, form);
  return answer;
}

async function settle(p, answer, form) {
  if (answer.reload) await p.view.reload(); // others did more than an answer tells
  await p.view.settle(answer, form);
  showFacts(p);
  if (answer.say) say(answer.say);
  planChanged();
}

function ask(p, form, answer) {
  p.pending = { id: form.id, form };
  p.view.draw();
  p.shown = "";
  swap(box(), answer.confirm);
  box()
    .querySelector("[data-confirm-yes]")
    .addEventListener("click", () => confirmPending(p));
  box()
    .querySelector("[data-confirm-no]")
    .addEventListener("click", () => leavePending(p));
  box().querySelector("[data-confirm-yes]").focus();
  say("Check what this changes, then confirm or cancel.");
}

function confirmPending(p) {
  const form = p.pending?.form;
  if (form) act(p, { ...form, key: key(), confirmed: true }).then(() => p.view.focus());
}

function leavePending(p) {
  p.pending = null;
  p.view.draw();
  showFacts(p);
  p.view.focus();
  say("Cancelled; nothing was changed.");
}

async function stepBack(p, what) {
  try {
    await settle(p, await post(what === "undo" ? p.root.dataset.undo : p.root.dataset.redo, known(p)));
  } catch (problem) {
    say(problem.message, problem.status !== 409);
    if (problem.status === 409) await p.view.reload();
    showFacts(p);
  }
}

// run does what a button beside, or a key, asks for, and tells whether it knows it.
// sendForReview takes what is chosen to the reviews, as much of it as an address holds.
function sendForReview(p) {
  const ids = p.view.chosen().slice(0, 200);
  location.href = "/studio/edition/review?show=drafts&" + ids.map((id) => "ids=" + encodeURIComponent(id)).join("&");
}

function run(p, what, button) {
  if (what === "send") return sendForReview(p);
  const id = p.view.selected();
  switch (what) {
    case "undo":
    case "redo":
      stepBackNext(p, what);
      return true;
    case "move":
      askMove(p);
      return true;
    case "remove":
    case "withdraw":
    case "return":
      if (id) act(p, { do: what, ...on(p) }).then(() => p.pending || p.view.focus());
      return true;
    case "copy":
    case "sort":
    case "sort-all":
      if (id) act(p, { do: what, id, value: button?.value || "" }).then(() => p.view.focus());
      return true;
    case "refer":
      act(p, { do: what, id: button.dataset.gone, value: button.dataset.kept });
      return true;
    case "mend":
      if (id) act(p, { do: what, field: button.value, id });
      return true;
  }
  return false;
}

const stepBackNext = (p, what) => later(p, () => stepBack(p, what));
