// The day on which the page goes out as news. It belongs to the text and is saved with it.
const field = "news:day";

export function makeNews(x) {
  const input = document.getElementById("news-day");
  if (!input) return { draw() {} };
  input.addEventListener("change", () => {
    x.pages.setField(field, input.value);
    x.saving.changed();
  });
  return {
    draw() {
      input.disabled = !x.editable();
      if (document.activeElement !== input) input.value = x.pages.field(field);
    },
  };
}
