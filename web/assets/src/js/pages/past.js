// Undo goes on where this window's own history ends: through the earlier versions that the server keeps, which a reload
// does not end. Redo comes back the same way.
import { redo, redoDepth, undo, undoDepth } from "prosemirror-history";
import { get, say } from "../shared/say.js";

export function makePast(x) {
  const p = { x, list: [], at: -1, ahead: [], busy: false };
  return {
    undo: () => back(p),
    redo: () => forth(p),
    // Whatever is written begins a new way from here.
    written() {
      p.ahead = [];
    },
  };
}

function back(p) {
  const { x } = p;
  if (!x.editable() || p.busy) return true;
  if (undoDepth(x.view.state)) undo(x.view.state, x.view.dispatch);
  else if (x.data.states) earlier(p);
  else say("There is nothing more to undo.");
  return true;
}

function forth(p) {
  const { x } = p;
  if (!x.editable() || p.busy) return true;
  if (redoDepth(x.view.state)) redo(x.view.state, x.view.dispatch);
  else if (p.ahead.length) {
    const next = p.ahead.pop();
    p.at = next.at;
    x.anew(next.page);
    say("Redone.");
  } else say("There is nothing to redo.");
  return true;
}

// earlier shows the next older version that is another than what stands there.
async function earlier(p) {
  const { x } = p,
    asked = x.view.state.doc;
  p.busy = true;
  try {
    if (p.at < 0) p.list = (await get(x.data.states)).found;
    for (let i = p.at + 1; i < p.list.length; i++) {
      const { content } = await get(x.data.states + "/" + p.list[i].id);
      if (x.view.state.doc !== asked || !x.editable()) return; // somebody wrote on, or took the page over, meanwhile
      if (x.pages.same(content, asked)) continue;
      p.ahead.push(...whatIsRedone(p));
      p.at = i;
      x.anew(content);
      return say(`This is the version of ${when(p.list[i].at)}, by ${p.list[i].by}. Redo brings back what was there.`);
    }
    say("There is nothing more to undo.");
  } catch (problem) {
    say(problem.message, true);
  } finally {
    p.busy = false;
  }
}

// whatIsRedone are the texts to come back to: what stands there and, where that was undone, what it was undone from.
function whatIsRedone({ x, at }) {
  let { state } = x.view;
  const now = { page: x.page(), at };
  if (!redoDepth(state)) return [now];
  while (redoDepth(state)) redo(state, (tr) => (state = state.apply(tr)));
  return [{ page: x.pages.fromDoc(state.doc), at }, now];
}

const when = (at) => new Date(at).toLocaleString("en-GB", { dateStyle: "medium", timeStyle: "short" });
