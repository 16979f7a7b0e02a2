// The page as plain text: CommonMark with blocks as fences. Either view can be switched to at any time.
import { post, say } from "../shared/say.js";

export function makePlain(x) {
  const button = document.getElementById("plain"),
    box = document.getElementById("plain-view"),
    area = box.querySelector("textarea"),
    wrong = box.querySelector(".to-mend");
  let timer,
    text = null; // as it was shown or read last
  async function open() {
    try {
      ({ text } = await post(x.data.plain, { content: x.page() }));
    } catch (problem) {
      return say(problem.message, true);
    }
    area.value = text;
    toggle(true);
    area.focus();
    area.setSelectionRange(0, 0);
    area.scrollTop = 0;
  }
  // read takes up what was written; what cannot be read is told with its line, and stays in the field.
  async function read() {
    clearTimeout(timer);
    if (area.value === text) return true;
    const asked = area.value;
    try {
      const { content, problems } = await post(x.data.unplain, { text: asked, content: x.page() });
      wrong.replaceChildren(
        ...(problems || []).map((p) =>
          Object.assign(document.createElement("li"), { textContent: `Line ${p.line}: ${p.text}` }),
        ),
      );
      if (problems?.length) return false;
      text = asked;
      x.show(content);
      x.saving.changed();
      return true;
    } catch (problem) {
      say(problem.message, true);
      return false;
    }
  }
  function toggle(on) {
    box.hidden = !on;
    document.getElementById("stage").hidden = on;
    document.getElementById("styles").classList.toggle("is-plain", on);
    button.setAttribute("aria-pressed", String(on));
  }
  button.addEventListener("click", async () => {
    if (box.hidden) return open();
    if (await read()) toggle(false);
    else say("Some of it cannot be read yet; see the lines below the text.", true);
  });
  area.addEventListener("input", () => {
    clearTimeout(timer);
    timer = setTimeout(read, 900);
  });
  addEventListener("pagehide", () => box.hidden || area.value === text || read());
}
