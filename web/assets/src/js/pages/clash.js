// Two texts that met: both are shown side by side, and one is gone on with.
import { el, post, say } from "../shared/say.js";
import { marked } from "./marks.js";

// met is what the server says where a save met another text.
export function met(x, body) {
  x.lock.lost(body.holder);
  x.saving.forgetHere();
  x.saving.status("Your text is kept, not saved. Choose below.", "bad");
  compare(x, {
    mine: structuredClone(x.page()),
    theirs: body.theirs,
    by: body.by,
    at: body.at,
    version: body.version,
    keptId: body.kept,
    why: body.holder
      ? `${body.holder} took this page over while you wrote. Your text is kept on the server.`
      : `${body.by || "Somebody"} saved this page after you opened it. Your text is kept on the server.`,
  });
}

// The server compares them, as it does everywhere; without a connection they can still be chosen from.
async function mark(x, mine, theirs, left, right) {
  try {
    const sides = await post(x.data.compare, { mine, theirs });
    left.replaceChildren(...marked(sides.mine || []));
    right.replaceChildren(...marked(sides.theirs || []));
  } catch (problem) {
    const again = el(
      "button",
      { class: "btn", type: "button", onclick: () => mark(x, mine, theirs, left, right) },
      "Try again",
    );
    left.replaceChildren(problem.message + " ", again);
    right.replaceChildren();
  }
}

export function compare(x, of) {
  const { mine, theirs, by, at, why } = of,
    box = document.getElementById("compare"),
    left = el("pre", { tabindex: "0" }),
    right = el("pre", { tabindex: "0" });
  mark(x, mine, theirs, left, right);
  const time = at && !at.startsWith("0001") ? new Date(at).toLocaleString("en-GB") : "";
  const side = (title, text, main, words, p) =>
    el(
      "div",
      {},
      el("h3", {}, title),
      text,
      el("button", { class: main ? "btn btn-main" : "btn", type: "button", onclick: () => choose(x, of, p) }, words),
    );
  box.replaceChildren(
    el("h2", {}, "Two texts met; both are kept"),
    el("p", {}, why),
    el(
      "div",
      { class: "sides" },
      side("Yours", left, true, "Go on with yours", mine),
      side(
        by ? `${by}’s${time ? ", " + time : ""}` : "The one that is saved",
        right,
        false,
        "Go on with the saved one",
        theirs,
      ),
    ),
    el(
      "p",
      { class: "small quiet" },
      "To join them, go on with one and copy sentences from the other before you choose.",
    ),
  );
  box.hidden = false;
  box.scrollIntoView({ block: "start" });
  x.clash = true;
  x.refresh();
}

async function choose(x, of, text) {
  try {
    const l = await post(x.data.lockUrl, { window: x.data.window, force: true });
    if (of.keptId) await post(x.data.keptUrl, { id: of.keptId });
    x.lock.have(l);
  } catch (problem) {
    return say(problem.message, true);
  }
  x.clash = false;
  x.saving.state.base = of.version;
  document.getElementById("compare").hidden = true;
  x.show(text);
  if (text === of.mine) x.saving.changed();
  else x.saving.settled();
}

// restore takes up a text left on this computer by a closed tab or a cut connection.
export function restore(x) {
  const left = x.saving.here(),
    now = x.page();
  if (!left || !x.lock.mine()) return;
  if (sameText(left.page, now)) return x.saving.forgetHere();
  if (left.base === x.saving.state.base) {
    x.show(left.page);
    x.saving.changed();
    say("A text that had not reached the server was restored.");
    return;
  }
  compare(x, {
    mine: left.page,
    theirs: structuredClone(now),
    by: "",
    at: "",
    version: x.saving.state.base,
    keptId: "",
    why: "This computer holds a text that had not reached the server, and the page was saved since.",
  });
}

// Fields and slots that are empty and those that are missing mean the same.
const filled = (all) =>
  Object.entries(all || {})
    .filter(([, v]) => v?.length)
    .sort(([a], [b]) => (a < b ? -1 : 1));
const sameText = (a, b) =>
  JSON.stringify([filled(a.fields), filled(a.slots)]) === JSON.stringify([filled(b.fields), filled(b.slots)]);

// drawKept lists texts of this person that met another and wait for a choice.
export function drawKept(x) {
  const box = document.getElementById("kept");
  if (!x.data.kept.length) return;
  const take = (k) =>
    compare(x, {
      mine: k.content,
      theirs: structuredClone(x.page()),
      by: "",
      at: "",
      version: x.saving.state.base,
      keptId: k.id,
      why: "You wrote this when the page was taken over or saved by somebody else.",
    });
  box.replaceChildren(
    el("h3", {}, "Kept texts"),
    el(
      "ul",
      {},
      ...x.data.kept.map((k) =>
        el(
          "li",
          {},
          el(
            "button",
            { class: "btn", type: "button", onclick: () => take(k) },
            "Yours of " + new Date(k.at).toLocaleString("en-GB"),
          ),
        ),
      ),
    ),
  );
}
