// What the program says in passing, and how it talks to the server.
let timer;
let later = "";
export function say(text, bad = false) {
  const box = document.getElementById("say");
  box.textContent = text;
  box.classList.toggle("bad", bad);
  box.classList.add("on");
  clearTimeout(timer);
  timer = setTimeout(
    () => {
      box.classList.remove("on");
      if (later) say(later);
      later = "";
    },
    bad ? 9000 : 4000,
  );
}

// mention says what somebody else did. It waits until a problem of one's own was there long enough to be read.
export function mention(text) {
  if (document.getElementById("say").matches(".bad.on")) later = text;
  else say(text);
}

export class Refusal extends Error {
  constructor(status, body) {
    super(body.error || "This did not work. Nothing was changed.");
    this.status = status;
    this.body = body;
  }
}

export async function post(url, data, options = {}) {
  const answer = await reached(
    fetch(url, {
      method: "POST",
      headers: { "Content-Type": "application/json", Accept: "application/json" },
      body: JSON.stringify(data),
      ...options,
    }),
  );
  const body = answer.status === 204 ? {} : await answer.json().catch(() => ({}));
  if (!answer.ok) throw new Refusal(answer.status, body);
  return body;
}

// reached words a server that does not answer; such a problem has no status.
const reached = (asked) =>
  asked.catch(() => {
    throw new Refusal(undefined, { error: "The server does not answer. Nothing was changed; try again in a moment." });
  });

export async function get(url) {
  const answer = await reached(fetch(url, { headers: { Accept: "application/json" } }));
  const body = await answer.json().catch(() => ({}));
  if (!answer.ok) throw new Refusal(answer.status, body);
  return body;
}

// fragment gets a piece of a page, or null where there is none to be had.
export async function fragment(url) {
  try {
    const answer = await fetch(url);
    return answer.ok ? await answer.text() : null;
  } catch {
    return null;
  }
}

export const key = () =>
  crypto.randomUUID
    ? crypto.randomUUID()
    : ([1e7] + -1e3 + -4e3 + -8e3 + -1e11).replace(/[018]/g, (c) =>
        (c ^ (crypto.getRandomValues(new Uint8Array(1))[0] & (15 >> (c / 4)))).toString(16),
      );

export function el(tag, attrs = {}, ...children) {
  const node = document.createElement(tag);
  for (const [name, value] of Object.entries(attrs)) {
    if (name.startsWith("on")) node.addEventListener(name.slice(2), value);
    else if (name === "class") node.className = value;
    else if (value === true) node.setAttribute(name, "");
    else if (value !== false && value != null) node.setAttribute(name, value);
  }
  node.append(...children.filter((c) => c != null));
  return node;
}

const svgNS = "http://www.w3.org/2000/svg";
export function symbol(name, cls = "") {
  const svg = document.createElementNS(svgNS, "svg");
  svg.setAttribute("aria-hidden", "true");
  if (cls) svg.setAttribute("class", cls);
  const use = document.createElementNS(svgNS, "use");
  use.setAttribute("href", "/assets/symbols.svg#" + name);
  svg.append(use);
  return svg;
}
