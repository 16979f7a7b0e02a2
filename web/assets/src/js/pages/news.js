// The day on which the page goes out as news.
import { closeHistory } from "prosemirror-history";

export function makeNews(x) {
  const input = document.getElementById("news-day");
  if (!input) return { draw() {} };
  input.addEventListener("change", () => {
    const { tr } = x.view.state;
    x.view.dispatch(closeHistory(tr.setDocAttribute("news", input.value))); // undone apart from what was typed before
  });
  return {
    draw() {
      input.disabled = !x.editable();
      if (document.activeElement !== input) input.value = x.view.state.doc.attrs.news;
    },
  };
}
