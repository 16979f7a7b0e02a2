// What other programs write to the clipboard, as plain HTML: structure that they tell by looks, comments and classes is told
// by elements; what no page shows is dropped. Nothing here knows of the editor.

const deepest = 60; // elements inside of each other

// declarations gives what a style says, by property: "mso-bidi-font-weight" is another than "font-weight".
export function declarations(style) {
  const out = new Map();
  for (const one of (style || "").split(";")) {
    const at = one.indexOf(":");
    if (at > 0)
      out.set(
        one.slice(0, at).trim().toLowerCase(),
        one
          .slice(at + 1)
          .trim()
          .toLowerCase(),
      );
  }
  return out;
}

// flattened takes away elements that stand deeper than any page has them, but not what they hold. It gives whether there were any.
export function flattened(root) {
  const depth = new Map([[root, 0]]),
    deep = [];
  for (const n of root.querySelectorAll("*")) {
    depth.set(n, depth.get(n.parentNode) + 1);
    if (depth.get(n) > deepest) deep.push(n);
  }
  for (const n of deep.reverse()) n.replaceWith(...n.childNodes);
  return deep.length > 0;
}

// hidden is what is not shown where it was copied: by its style, or because it belongs to a comment.
const hidden = (look) =>
  look.get("display") === "none" ||
  look.get("visibility") === "hidden" ||
  look.get("mso-hide") === "all" ||
  /^comment/.test(look.get("mso-element") || "") ||
  look.has("mso-comment-reference") ||
  look.get("mso-special-character") === "comment";

// marked makes elements of marks that a style tells, and takes away those that it takes back.
function marked(n, look) {
  const weight = look.get("font-weight"),
    raised = look.get("vertical-align");
  if (n.matches("span, font")) {
    if (/^(bold|bolder|[6-9]00)$/.test(weight)) wrap(n, "strong");
    if (/^(italic|oblique)/.test(look.get("font-style"))) wrap(n, "em");
    if (/line-through/.test(look.get("text-decoration") || look.get("text-decoration-line"))) wrap(n, "s");
    if (raised === "super") wrap(n, "sup");
    if (raised === "sub") wrap(n, "sub");
  }
  if (n.matches("b, strong") && /^(normal|400)$/.test(weight)) n.replaceWith(...n.childNodes);
}

function wrap(n, tag) {
  const mark = n.ownerDocument.createElement(tag);
  mark.append(...n.childNodes);
  n.append(mark);
}

// --- lists that a word processor writes as paragraphs ---

// listed makes lists of paragraphs that tell their level and sign by their style.
function listed(root) {
  const looks = (n) => declarations(n.getAttribute("data-look"));
  const level = (n) => n.nodeType === 1 && +(/\blevel(\d)/.exec(looks(n).get("mso-list") || "")?.[1] || 0);
  for (const first of [...root.querySelectorAll("[data-look]")]) {
    if (!first.isConnected || !first.matches("p, h1, h2, h3, h4, h5, h6, div") || !level(first)) continue;
    const items = [];
    for (let n = first; n && (n.nodeType !== 1 || level(n)); n = n.nextSibling)
      if (n.nodeType === 1) items.push(n);
      else if (n.nodeType === 3 && n.data.trim()) break;
    const place = root.ownerDocument.createComment("");
    first.before(place);
    place.replaceWith(nested(root.ownerDocument, items, level, looks));
  }
}

function nested(doc, items, level, looks) {
  const out = doc.createDocumentFragment(),
    open = []; // the lists that are open, the outermost first
  for (const p of items) {
    const depth = Math.min(level(p), open.length + 1),
      sign = [...p.querySelectorAll("[data-look]")].find((n) => looks(n).get("mso-list") === "ignore"),
      tag = /^\s*(\d|[a-z]{1,4}[.)])/i.test(sign?.textContent || "") ? "OL" : "UL";
    sign?.remove();
    open.length = Math.min(open.length, depth);
    if (open.length === depth && open.at(-1)?.tagName !== tag) open.pop();
    if (open.length < depth) {
      const list = doc.createElement(tag);
      (open.at(-1)?.lastElementChild || out).append(list);
      open.push(list);
    }
    const li = doc.createElement("li");
    li.append(...p.childNodes);
    open.at(-1).append(li);
    p.remove();
  }
  return out;
}

// --- tables ---

const parts = "p, div, h1, h2, h3, h4, h5, h6, li, tr, pre, blockquote, dt, dd, br";

// tabled makes every cell of a table one line, since a cell holds no more, and gives each place that a merged cell covers
// what it holds. It gives how many were merged.
function tabled(root) {
  let merged = 0;
  for (const table of root.querySelectorAll("table")) {
    if (!table.isConnected || table.parentNode.closest("table")) continue; // its words stand in a cell
    const doc = root.ownerDocument,
      rows = [...table.rows],
      grid = rows.map(() => []);
    rows.forEach((row, y) => {
      let x = 0;
      for (const cell of [...row.cells]) {
        while (grid[y][x]) x++;
        const [wide, high] = [spanOf(cell, "colspan"), Math.min(spanOf(cell, "rowspan"), rows.length - y)];
        if (wide > 1 || high > 1) merged++;
        cell.removeAttribute("colspan");
        cell.removeAttribute("rowspan");
        cell.replaceChildren(...lines(doc, cell));
        for (let j = 0; j < high; j++)
          for (let i = 0; i < wide; i++) grid[y + j][x + i] = i + j ? cell.cloneNode(true) : cell;
        x += wide;
      }
    });
    const wide = Math.max(0, ...grid.map((g) => g.length));
    rows.forEach((row, y) => {
      for (let i = 0; i < wide; i++) grid[y][i] ||= doc.createElement("td");
      row.replaceChildren(...grid[y]);
    });
  }
  return merged;
}

const spanOf = (cell, name) => Math.min(Math.max(parseInt(cell.getAttribute(name), 10) || 1, 1), 100);

// lines gives what a cell holds without the paragraphs around it, each part apart from the next.
function lines(doc, cell) {
  for (const n of [...cell.querySelectorAll(parts)].reverse()) {
    n.before(doc.createTextNode(" "));
    n.after(doc.createTextNode(" "));
    n.replaceWith(...n.childNodes);
  }
  for (const n of [...cell.querySelectorAll("table, tbody, thead, tfoot, td, th, ul, ol, dl")].reverse()) {
    n.after(doc.createTextNode(" "));
    n.replaceWith(...n.childNodes);
  }
  cell.normalize();
  return cell.childNodes;
}

// --- the rest ---

// noted makes footnotes a list at the end; where they are called stands their number.
function noted(root) {
  const called = (a) => /^#_?(ftn|edn|fn|footnote)/i.test(a.getAttribute("href") || "");
  const notes = [...root.querySelectorAll("[data-look]")].filter((n) =>
    /^(footnote|endnote)$/.test(declarations(n.getAttribute("data-look")).get("mso-element") || ""),
  );
  for (const a of [...root.querySelectorAll("a[href]")].filter(called)) {
    const number = a.textContent.replace(/[[\]\s]/g, ""),
      back = /^#_?(ftnref|ednref|fnref)/i.test(a.getAttribute("href"));
    if (back) a.remove();
    else {
      const sup = root.ownerDocument.createElement("sup");
      sup.textContent = number;
      a.replaceWith(sup);
    }
  }
  if (!notes.length) return;
  const list = root.ownerDocument.createElement("ol");
  for (const note of notes) {
    const li = root.ownerDocument.createElement("li");
    li.append(...note.childNodes);
    list.append(li);
    note.remove();
  }
  root.append(list);
}

function unfolded(root) {
  const doc = root.ownerDocument;
  for (const s of root.querySelectorAll("details > summary")) {
    const p = doc.createElement("p");
    p.append(...s.childNodes);
    wrap(p, "strong");
    s.replaceWith(p);
  }
}

// languages says of code what it is written in, as the schema reads it.
function languages(root) {
  for (const pre of root.querySelectorAll("pre")) {
    const names = [pre, pre.querySelector("code"), pre.parentNode]
      .map((n) => n?.getAttribute?.("class") || "")
      .join(" ");
    const of = /\b(?:language|lang|highlight-source)-([\w+#-]+)/.exec(names)?.[1];
    if (of) pre.setAttribute("data-params", of);
    const last = pre.ownerDocument.createTreeWalker(pre, NodeFilter.SHOW_TEXT).lastChild();
    if (last) last.data = last.data.replace(/\n$/, "");
  }
}

// plain makes what was copied plain structure. It gives what was left out or is told otherwise, in words.
export function plain(root) {
  const told = [];
  if (flattened(root)) told.push("what was nested too deeply is flat now");
  let comments = 0;
  for (const n of root.querySelectorAll("[data-look]")) {
    const look = declarations(n.getAttribute("data-look"));
    if (hidden(look)) {
      if (look.get("mso-element") === "comment") comments++;
      n.remove();
    }
  }
  if (comments) told.push(comments === 1 ? "1 comment is left out" : `${comments} comments are left out`);
  listed(root);
  noted(root);
  for (const n of root.querySelectorAll("[data-look]")) {
    const look = declarations(n.getAttribute("data-look"));
    const align = /^(right|center)$/.exec(look.get("text-align"))?.[0];
    if (align && n.matches("td, th")) n.setAttribute("align", align);
    marked(n, look);
    n.removeAttribute("data-look");
  }
  unfolded(root);
  languages(root);
  const merged = tabled(root);
  if (merged) told.push(merged === 1 ? "1 merged cell is repeated" : `${merged} merged cells are repeated`);
  return told;
}

// rowsOf gives the rows of text with tabs, as spreadsheets write it; null where it is no table.
export function rowsOf(text) {
  const rows = text.replace(/\r\n?/g, "\n").replace(/\n+$/, "").split("\n");
  if (!rows.every((r) => r.includes("\t")) || rows.some((r) => /^\t* {4}/.test(r))) return null;
  const cells = rows.map((r) => r.split("\t").map((c) => c.trim()));
  const wide = Math.max(...cells.map((c) => c.length));
  return cells.map((c) => [...c, ...Array(wide - c.length).fill("")]);
}
