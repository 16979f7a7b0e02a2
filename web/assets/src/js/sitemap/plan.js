// Acts on Next, with their consequences and the facts beside: what the outline
// and the map share. A view says what is chosen and how it shows an answer.
import { say, post, fragment, key } from "../shared/say.js";
import { planChanged } from "../shared/shelf.js";
import { chips } from "../shared/chips.js";
import { spellDates } from "../shared/dates.js";
import { suggest } from "../shared/suggest.js";
import { runOf, pause, onThisComputer } from "../shared/waiting.js";

// view: selected(), chosen() the ids acted on, version(), home(), settle(answer), reload(), draw(),
// focus(), run(what, button) for a button beside; busy() while somebody types; holds() while something is dragged; added(answer, forms) and refused(form, words)
// where entries are added.
export function planner(root, view) {
  const waiting = [],
    computer = onThisComputer(root.dataset.person || "");
  const refused = new Map(); // of an entry and a field: what was typed there and not taken
  let working = false,
    pending = null,
    shown = "",
    besideTimer,
    besideTurn = 0;
  const box = () => document.getElementById("beside");
  const many = () => view.chosen().length > 1;
  const on = () => (many() ? { ids: view.chosen() } : { id: view.selected() });

  function showFacts() {
    clearTimeout(besideTimer);
    besideTimer = setTimeout(async () => {
      const id = view.selected(),
        mine = ++besideTurn;
      if (!id || pending || view.busy?.()) return;
      if (waiting.some((item) => !isAdding(item))) return; // facts are shown when that is done
      const facts = await fragment(
        root.dataset.beside +
          (many()
            ? "?many=" +
              view.chosen().length +
              (view.chosen().length === 2 ? "&of=" + view.chosen().map(encodeURIComponent).join("&of=") : "")
            : "?id=" + encodeURIComponent(id)),
      );
      if (facts === null || mine !== besideTurn || pending) return;
      const at = document.activeElement,
        within = box().contains(at),
        same = many() ? box().querySelector("[data-many]") : box().querySelector("[data-entry]")?.dataset.entry === id;
      if (same && within && (at.id === "move-find" || isWriting(at)))
        return at.addEventListener("blur", showFacts, { once: true }); // nothing typed is taken away
      if (facts !== shown) {
        box().innerHTML = shown = facts;
        wireFacts();
        if (within)
          [...box().querySelectorAll("a, button, input, select, textarea, summary")]
            .find((e) => sign(e) === sign(at))
            ?.focus({ preventScroll: true });
      }
      offerAgain(id);
      if (going) goToFacts();
      if (moving) askMove();
    }, 90);
  }

  // isWriting tells that what stands in a field has not been asked for yet.
  const isWriting = (e) => e.matches("input, textarea") && e.value !== e.defaultValue && e.value !== e.dataset.asked;
  // sign is what a link, a button or a field is known by after it was drawn again.
  const sign = (e) => e.id || e.getAttribute("href") || e.textContent;

  function wireFacts() {
    spellDates(box());
    const of = box().querySelector("[data-entry]")?.dataset.entry; // another entry may be chosen when something is written
    const target = () => (of ? { id: of } : on());
    for (const field of box().querySelectorAll("[data-act-do]")) {
      if (field.hasAttribute("data-find-page")) {
        suggest(
          field,
          root.dataset.find,
          () => ({ only: "page", not: of }),
          (item) => act({ do: "fact", field: "target", id: of, value: item.id }),
        );
        continue;
      }
      if (field.hasAttribute("data-chips")) chips(field);
      field.addEventListener("change", async () => {
        const value = (field.dataset.asked = field.value),
          place = `${of || view.selected()} ${field.id}`;
        const answer = await act({ do: field.dataset.actDo, field: field.dataset.field || "", ...target(), value });
        if (answer === null) return refused.set(place, value);
        refused.delete(place);
        field.removeAttribute("aria-invalid");
      });
    }
    for (const button of box().querySelectorAll("[data-do]"))
      button.addEventListener("click", () => view.run(button.dataset.do, button));
    const find = box().querySelector("#move-find");
    if (find) {
      suggest(
        find,
        root.dataset.find,
        () => ({ only: "holder" }),
        (item) => moveBelow(item.id),
      );
      find.addEventListener("keydown", (e) => {
        if (e.key === "Enter" && !find.value.trim()) moveBelow("");
        if (e.key === "Escape") view.focus();
      });
    }
  }

  // goToFacts goes to the first field or button of what is chosen, as soon as it is there.
  let going = false;
  function goToFacts() {
    const shownOf = box().querySelector("[data-entry]")?.dataset.entry;
    going = !many() && shownOf !== view.selected();
    if (!going) box().querySelector("input:not([hidden]), select, button")?.focus();
  }

  // offerAgain puts what was typed and refused back into its field.
  function offerAgain(id) {
    for (const field of box().querySelectorAll("[data-act-do]")) {
      const value = refused.get(`${id} ${field.id}`);
      if (value === undefined) continue;
      field.setAttribute("aria-invalid", "true");
      field.value = value;
      field.dispatchEvent(new Event("chips:again"));
    }
  }

  function moveBelow(parent) {
    if (parent === view.home()) parent = "";
    act({ do: "move", ...on(), parent, last: true }).then(() => pending || view.focus());
  }

  // askMove opens the field for where to move to, as soon as the facts of what is chosen are there.
  let moving = false;
  function askMove() {
    const of = box().querySelector(many() ? "[data-many]" : "[data-entry]"),
      to = box().querySelector("[data-move-to]");
    moving = !of || (!many() && of.dataset.entry !== view.selected());
    if (!moving && to) {
      to.hidden = false;
      to.querySelector("input").focus();
    }
  }

  // act asks for one act. Acts are done in their order; entries to be added go several at a time, and wait on this
  // computer until the server has them.
  function act(form) {
    besideTurn++; // facts that are on their way are older than this act
    return new Promise((resolve) => {
      waiting.push({ form: { key: key(), ...form }, resolve });
      keep();
      work();
    });
  }
  const later = (run) =>
    new Promise((resolve) => {
      waiting.push({ run, resolve });
      work();
    });
  const isAdding = (item) => item.form?.do === "add" && item.form.new;
  const keep = () => computer.write(waiting.filter(isAdding).map((item) => item.form));

  async function work() {
    if (working) return;
    working = true;
    while (waiting.length) {
      const items = runOf(waiting);
      if (isAdding(items[0])) await performAdds(items);
      else {
        const [item] = items,
          done = await (item.run ? item.run() : perform(item.form)).catch(() => null);
        waiting.splice(waiting.indexOf(item), 1);
        item.resolve(done);
      }
      keep();
    }
    working = false;
  }

  // performAdds sends entries until the server has answered, under the same keys, so that none is added twice.
  async function performAdds(items) {
    for (let n = 0; ; n++) {
      let answer = null,
        words = "";
      try {
        answer = await post(root.dataset.act, { acts: items.map((item) => ({ ...item.form, seen: view.version() })) });
      } catch (problem) {
        if (problem.status === undefined || problem.status >= 500 || problem.status === 401) {
          const many = waiting.filter(isAdding).length;
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
      waiting.splice(0, items.length);
      if (answer)
        await view.added(
          answer,
          done.map((item) => item.form),
        );
      for (const item of items) {
        if (item.form.key in reasons) view.refused(item.form, reasons[item.form.key]);
        item.resolve(item.form.key in reasons ? null : answer);
      }
      if (n > 0) say("Connected again; everything is saved.");
      planChanged();
      return;
    }
  }

  // What was left on this computer by a window that was closed too early.
  function takeUp() {
    const forms = computer.read();
    for (const form of forms) waiting.push({ form, resolve() {} });
    if (forms.length) work();
    return forms;
  }

  // Others' acts come in while nothing of one's own is on its way.
  async function watch() {
    for (;;) {
      await new Promise((go) => setTimeout(go, 1400));
      if (!root.isConnected) return;
      if (document.hidden || working || pending || view.holds?.()) continue;
      const answer = await news();
      if (!answer || working || pending || view.holds?.()) continue;
      if (answer.reload) await view.reload();
      else await view.others(answer);
      if (answer.say) say(answer.say);
      showFacts();
      planChanged();
    }
  }
  const news = async () => {
    try {
      const answer = await fetch(`${root.dataset.since}?version=${view.version()}&edition=${view.edition()}`, {
        headers: { Accept: "application/json" },
      });
      return answer.status === 200 ? await answer.json() : null;
    } catch {
      return null; // the next time tells
    }
  };

  async function perform(form) {
    pending = null;
    form = { key: key(), ...form, seen: view.version() };
    let answer;
    try {
      answer = await post(root.dataset.act, form);
    } catch (problem) {
      say(problem.message, true);
      if (problem.status === 409 || problem.status === undefined) await view.reload();
      showFacts(); // what was refused is offered again in its field
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
    planChanged();
  }

  function ask(form, answer) {
    pending = { id: form.id, form };
    view.draw();
    shown = "";
    box().innerHTML = answer.confirm;
    box().querySelector("[data-confirm-yes]").addEventListener("click", confirmPending);
    box().querySelector("[data-confirm-no]").addEventListener("click", leavePending);
    box().querySelector("[data-confirm-yes]").focus();
    say("Check what this changes, then confirm or cancel.");
  }
  box().addEventListener("keydown", (e) => {
    if (pending && e.key === "Escape") leavePending();
  });

  function confirmPending() {
    const form = pending?.form;
    if (form) act({ ...form, key: key(), confirmed: true }).then(() => view.focus());
  }
  function leavePending() {
    pending = null;
    view.draw();
    showFacts();
    view.focus();
    say("Cancelled; nothing was changed.");
  }

  async function stepBack(what) {
    try {
      await settle(await post(what === "undo" ? root.dataset.undo : root.dataset.redo, {}));
    } catch (problem) {
      say(problem.message, problem.status !== 409);
      if (problem.status === 409) await view.reload();
      showFacts();
    }
  }

  // run does what a button beside, or a key, asks for, and tells whether it knows it.
  function run(what, button) {
    const id = view.selected();
    switch (what) {
      case "undo":
      case "redo":
        stepBackNext(what);
        return true;
      case "move":
        askMove();
        return true;
      case "remove":
      case "withdraw":
      case "return":
        if (id) act({ do: what, ...on() }).then(() => pending || view.focus());
        return true;
      case "copy":
      case "sort":
      case "sort-all":
        if (id) act({ do: what, id, value: button?.value || "" }).then(() => view.focus());
        return true;
      case "refer":
        act({ do: what, id: button.dataset.gone, value: button.dataset.kept });
        return true;
      case "mend":
        if (id) act({ do: what, field: button.value, id });
        return true;
    }
    return false;
  }
  const stepBackNext = (what) => later(() => stepBack(what));

  return {
    act,
    on,
    run,
    many,
    showFacts,
    goToFacts,
    askMove,
    takeUp,
    watch,
    pending: () => pending,
    dropPending: () => {
      pending = null;
    },
    confirmPending,
    leavePending,
  };
}
