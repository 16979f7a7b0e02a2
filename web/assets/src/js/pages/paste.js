// What a paste from elsewhere becomes: structure is kept, looks are dropped, and
// what cannot be kept is said.
import { Fragment, Slice } from "prosemirror-model";
import { get } from "../shared/say.js";

const STYLE = /\sstyle\s*=\s*("[^"]*"|'[^']*'|[^\s>]*)/gi;

// cleanHTML drops looks and what no page shows, and makes links to this site's own addresses links of this site. It gives
// the HTML and what was dropped, in words.
export function cleanHTML(html, hosts) {
  const doc = new DOMParser().parseFromString(html.replace(STYLE, ""), "text/html");
  doc.querySelectorAll("style, script, meta, link, title, iframe, object, embed").forEach((n) => n.remove());
  let pictures = 0;
  for (const img of doc.querySelectorAll("img")) {
    if (own(img.getAttribute("src") || "", hosts)?.startsWith("/files/"))
      img.setAttribute("src", own(img.getAttribute("src"), hosts));
    else {
      pictures++;
      img.remove();
    }
  }
  for (const a of doc.querySelectorAll("a[href]")) {
    const path = own(a.getAttribute("href"), hosts);
    if (path) a.setAttribute("href", path);
  }
  const dropped =
    pictures === 1
      ? "1 picture was left out: pages show only pictures that the site keeps."
      : pictures
        ? `${pictures} pictures were left out: pages show only pictures that the site keeps.`
        : "";
  return { html: doc.body.innerHTML, dropped };
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

// apart keeps what begins with something else than a paragraph from joining the paragraph in which it is pasted, and
// brings headings to the levels that a page has.
export function apart(slice, schema) {
  const level = (node) => {
    if (node.type === schema.nodes.heading)
      return node.type.create(
        { ...node.attrs, level: Math.min(Math.max(node.attrs.level, 2), 4) },
        node.content,
        node.marks,
      );
    return node.isTextblock || node.isLeaf ? node : node.copy(Fragment.fromArray(node.content.content.map(level)));
  };
  const content = Fragment.fromArray(slice.content.content.map(level));
  const first = content.firstChild,
    last = content.lastChild,
    whole = (node) => node && node.type !== schema.nodes.paragraph;
  return new Slice(content, whole(first) ? 0 : slice.openStart, whole(last) ? 0 : slice.openEnd);
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
