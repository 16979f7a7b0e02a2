// The day on which the page goes out as news.
import { closeHistory, undo } from "prosemirror-history";

export function makeNews(x) {
  const input = document.getElementById("news-day");
  if (!input) return { draw() {} };
  let written = null; // the document with the day that is being typed
  const set = () => {
    const day = input.value;
    if (x.view.state.doc === written) undo(x.view.state, x.view.dispatch); // each digit may make another day: one step for all
    const { tr } = x.view.state;
    x.view.dispatch(closeHistory(tr.setDocAttribute("news", day))); // undone apart from what was typed before
    written = x.view.state.doc;
  };
  input.addEventListener("change", set);
  input.addEventListener("blur", () => (written = null));
  return {
    draw() {
      input.disabled = !x.editable();
      if (document.activeElement !== input) input.value = x.view.state.doc.attrs.news;
    },
  };
}
