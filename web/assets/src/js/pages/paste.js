// What a paste from elsewhere becomes: structure is kept, looks are dropped, and what cannot be kept is said.
import { Fragment, Slice } from "prosemirror-model";
import { get, key, say } from "../shared/say.js";
import { fullAt, fullWords, holderOf, isBlock, selectedBlock, takesAt } from "./blocks.js";
import { plain, rowsOf } from "./clean.js";
import { typeOf } from "./schema.js";

// Styles are read as data, and what would run is none: a document that has them would have them applied, which our policy
// forbids and tells.
const harmless = (html) =>
  html
    .replace(/<style\b[^]*?<\/style\s*>/gi, "")
    .replace(/<[^>]*>/g, (tag) => tag.replace(/\sstyle\s*=/gi, " data-look=").replace(/\son\w+\s*=/gi, " data-off="));

const unsafe =
  "style, script, meta, link, title, iframe, object, embed, form, button, video, audio, svg, math, noscript";

// cleanHTML drops looks and what no page shows, and makes links to this site's own addresses links of this site. It gives
// the HTML, pictures that came along, and what was dropped, in words. Structure that is only told by looks is kept, see clean.js.
export function cleanHTML(html, hosts) {
  const doc = new DOMParser().parseFromString(harmless(html), "text/html"),
    dropped = [],
    files = [];
  const count = (n, one, many) => n && dropped.push(n === 1 ? `1 ${one}` : `${n} ${many}`);
  const gone = doc.querySelectorAll("iframe, object, embed, video, audio, form");
  count(gone.length, "embedded part", "embedded parts");
  doc.querySelectorAll(unsafe).forEach((n) => n.remove());
  const told = plain(doc.body);
  let pictures = 0;
  for (const img of doc.querySelectorAll("img")) {
    const path = own(img.getAttribute("src") || "", hosts);
    if (path?.startsWith("/files/")) img.setAttribute("src", path);
    else {
      const file = pictureIn(img.getAttribute("src") || "");
      if (file) files.push(file);
      else pictures++;
      img.remove();
    }
  }
  count(pictures, "picture that this site does not keep", "pictures that this site does not keep");
  let links = 0;
  for (const a of doc.querySelectorAll("a[href]")) {
    const path = own(a.getAttribute("href"), hosts);
    if (path) a.setAttribute("href", path);
    else if (!/^(https?:|mailto:|tel:|page:|#)/i.test(a.getAttribute("href"))) {
      links++;
      a.replaceWith(...a.childNodes);
    }
  }
  count(links, "link that leads nowhere", "links that lead nowhere");
  const words = [dropped.length && "Left out: " + dropped.join(", ") + ".", ...told.map(sentence)].filter(Boolean);
  return { html: doc.body.innerHTML, files, dropped: words.join(" ") };
}

const sentence = (words) => words[0].toUpperCase() + words.slice(1) + ".";

// tableOf makes a table of rows that were copied as text with tabs, as spreadsheets do; null: it is text.
export function tableOf(text, schema) {
  const rows = rowsOf(text),
    { table, table_row: row, table_header: head, table_cell: cell } = schema.nodes;
  if (!rows) return null;
  const of = (r, i) => r.map((words) => (i ? cell : head).create(null, words ? schema.text(words) : null));
  return new Slice(
    Fragment.from(
      table.create(
        null,
        rows.map((r, i) => row.create(null, of(r, i))),
      ),
    ),
    0,
    0,
  );
}

// pictureIn gives the picture that an address holds itself, or null.
function pictureIn(src) {
  const m = /^data:image\/(png|jpeg|gif|webp);base64,([\w+/=\s]+)$/.exec(src);
  if (!m) return null;
  const bytes = Uint8Array.from(atob(m[2].replace(/\s/g, "")), (c) => c.charCodeAt(0));
  return new File([bytes], "picture." + (m[1] === "jpeg" ? "jpg" : m[1]), { type: "image/" + m[1] });
}

// own gives the path of an address of this site, or null for another's.
export function own(href, hosts) {
  if (href.startsWith("/") && !href.startsWith("//")) return href;
  let u;
  try {
    u = new URL(href);
  } catch {
    return null;
  }
  return /^https?:$/.test(u.protocol) && hosts.includes(u.host.toLowerCase()) ? u.pathname + u.search + u.hash : null;
}

// apart keeps what begins with something else than a paragraph from joining the paragraph in which it is pasted. Behind a
// table stands a line to go on in.
export function apart(slice, schema) {
  const { table, paragraph } = schema.nodes;
  const whole = (node) => node && node.type !== paragraph && !isBlock(node) && node.type.spec.group?.includes("prose");
  const first = slice.content.firstChild,
    last = slice.content.lastChild;
  const content = last?.type === table ? slice.content.addToEnd(paragraph.create()) : slice.content;
  return new Slice(content, whole(first) ? 0 : slice.openStart, whole(last) ? 0 : slice.openEnd);
}

// pasteBlocks takes whole blocks from the clipboard: those that may stand here go below the block with the selection, of
// others their text if that may; the rest is told. It gives whether there were any.
export function pasteBlocks(x, slice) {
  const blocks = [];
  const collect = (f) =>
    f.forEach((n) => (isBlock(n) ? blocks.push(n) : !n.isTextblock && !n.type.spec.group && collect(n.content)));
  collect(slice.content);
  const { state } = x.view;
  const at = selectedBlock(state);
  const textOnly = blocks.length === 1 && slice.openStart > 1 && at && !at.node.isAtom;
  if (!blocks.length || textOnly || !at) return false;
  const takes = takesAt(state.doc, at.pos, x.inColumns),
    names = [];
  const fit = blocks.flatMap((b) => {
    if (takes.includes(typeOf(b))) return [b];
    const words = x.pages.block(b).text;
    if (words && takes.includes("text")) return [x.pages.node({ type: "text", text: words, id: key() })];
    names.push(x.kinds[typeOf(b)].name);
    return [];
  });
  if (names.length) say(`Left out, since this slot does not take it: ${names.join(", ")}.`, true);
  if (fit.length) x.view.dispatch(state.tr.insert(at.pos + at.node.nodeSize, Fragment.from(fit)).scrollIntoView());
  return true;
}

// pasteFiles brings pictures and files from the clipboard or from a drop to the site, and shows them where they belong.
export async function pasteFiles(x, files, pos) {
  for (const file of files) {
    try {
      say(`Sending ${file.name} …`);
      const kept = await x.files.upload(file);
      if (putFile(x, kept, pos)) say(`${kept.name} is on the page.`);
    } catch (problem) {
      say(problem.message, true);
    }
  }
}

// placeFor is where a file that comes to a position goes: below the block there, else between blocks or into the empty
// slot; without a position, below the block with the selection. It is null where no block may stand.
function placeFor({ doc, selection }, pos) {
  if (pos === undefined) {
    const at = selectedBlock({ doc, selection });
    return at && at.pos + at.node.nodeSize;
  }
  const $pos = doc.resolve(pos);
  for (let d = $pos.depth; d > 0; d--) if (isBlock($pos.node(d))) return $pos.after(d);
  return holderOf($pos) ? pos : null;
}

// putFile shows a file of the site where it was dropped, or below the selection.
export function putFile(x, kept, pos) {
  const { state } = x.view,
    place = placeFor(state, pos);
  if (place === null) return say("No block may stand here. Drop it on a slot of the page.", true);
  const full = fullAt(state.doc, place);
  if (full) return say(fullWords(full), true);
  const takes = takesAt(state.doc, place, x.inColumns);
  let b = null;
  if (kept.width && takes.includes("picture")) b = { type: "picture", set: { picture: kept.address } };
  else if (takes.includes("files")) b = { type: "files", items: [{ file: kept.address }] };
  else if (kept.width && takes.includes("text")) b = { type: "text", text: `![](${kept.address})` };
  if (!b) return say("This slot takes neither pictures nor files.", true);
  const node = x.pages.node({ ...b, id: key() });
  x.view.dispatch(state.tr.insert(place, node));
  x.parts.focus(node.attrs.id);
  return true;
}

// toPages makes links to addresses of this site links to its pages, once the server has said which.
export async function toPages(view, findURL) {
  const mark = view.state.schema.marks.link,
    paths = new Set();
  view.state.doc.descendants((node) => {
    for (const m of node.marks)
      if (m.type === mark && m.attrs.href.startsWith("/") && !m.attrs.href.startsWith("/files/"))
        paths.add(m.attrs.href);
  });
  for (const href of paths) {
    const [path, anchor] = href.split("#"),
      found = (await get(findURL + "?" + new URLSearchParams({ at: path.split("?")[0] })).catch(() => null))
        ?.found?.[0];
    if (!found || view.isDestroyed) continue;
    const tr = view.state.tr;
    view.state.doc.descendants((node, pos) => {
      const at = node.isText && node.marks.find((m) => m.type === mark && m.attrs.href === href);
      if (at)
        tr.removeMark(pos, pos + node.nodeSize, at).addMark(
          pos,
          pos + node.nodeSize,
          mark.create({ ...at.attrs, href: "page:" + found.id + (anchor ? "#" + anchor : "") }),
        );
    });
    if (tr.docChanged) view.dispatch(tr);
  }
}
