// What a text is made of: the nodes and marks of CommonMark with tables, tasks and struck words. In lists and quotes stands
// what is "flow"; a table, or source text, only by itself.
import { schema as base } from "prosemirror-markdown";
import { tableNodes } from "prosemirror-tables";

const spec = (name) => base.spec.nodes.get(name);
const tables = tableNodes({
  tableGroup: "prose",
  cellContent: "(text | image)*",
  cellAttributes: {
    align: {
      default: null,
      getFromDOM: (cell) =>
        /^(right|center)$/.exec(cell.style.textAlign || cell.getAttribute("align") || "")?.[0] || null,
      setDOMAttr: (value, attrs) => {
        if (value) attrs.class = value === "right" ? "at-right" : "at-middle";
      },
    },
  },
});

const safe = (href) => (/^(https?:|mailto:|tel:|page:|[/#])/i.test(href) ? href : null);

export const proseNodes = {
  paragraph: { ...spec("paragraph"), group: "flow prose" },
  heading: {
    ...spec("heading"),
    group: "flow prose",
    content: "(text | image)*",
    attrs: { level: { default: 2 } },
    parseDOM: [1, 2, 3, 4, 5, 6].map((level) => ({
      tag: "h" + level,
      attrs: { level: Math.min(Math.max(level, 2), 4) },
    })),
  },
  blockquote: { ...spec("blockquote"), group: "flow prose", content: "flow+" },
  code_block: { ...spec("code_block"), group: "flow prose" },
  horizontal_rule: { ...spec("horizontal_rule"), group: "flow prose", toDOM: () => ["div", ["hr"]] },
  bullet_list: {
    ...spec("bullet_list"),
    group: "flow prose",
    attrs: { tight: { default: true } },
    parseDOM: [{ tag: "ul", getAttrs: (dom) => ({ tight: tight(dom) }) }],
  },
  ordered_list: {
    ...spec("ordered_list"),
    group: "flow prose",
    attrs: { order: { default: 1 }, tight: { default: true } },
    parseDOM: [
      {
        tag: "ol",
        getAttrs: (dom) => ({ order: dom.hasAttribute("start") ? +dom.getAttribute("start") : 1, tight: tight(dom) }),
      },
    ],
  },
  list_item: {
    content: "flow+",
    defining: true,
    attrs: { checked: { default: null } },
    parseDOM: [{ tag: "li", getAttrs: (dom) => ({ checked: task(dom) }) }],
    toDOM: (node) =>
      node.attrs.checked === null ? ["li", 0] : ["li", { class: node.attrs.checked ? "to-do done" : "to-do" }, 0],
  },
  ...tables,
  verbatim: {
    content: "text*",
    group: "prose",
    marks: "",
    code: true,
    defining: true,
    parseDOM: [{ tag: "pre[data-verbatim]", preserveWhitespace: "full" }],
    toDOM: () => [
      "pre",
      { "data-verbatim": "1", class: "verbatim", title: "Source text: kept as it was written" },
      ["code", 0],
    ],
  },
  text: { group: "inline" },
  image: {
    ...spec("image"),
    parseDOM: [{ ...spec("image").parseDOM[0], tag: 'img[src^="/files/"]' }], // no page shows a picture of another site
  },
  hard_break: spec("hard_break"),
};

const tight = (list) => list.hasAttribute("data-tight") || !list.querySelector(":scope > li > p");

function task(li) {
  if (li.classList.contains("to-do")) return li.classList.contains("done");
  const box = li.querySelector(
    ":scope > input[type=checkbox], :scope > p > input[type=checkbox], :scope > label > input[type=checkbox]",
  );
  return box ? box.checked : null;
}

const marks = base.spec.marks;
export const proseMarks = {
  link: {
    ...marks.get("link"),
    toDOM: (mark) => ["a", { href: safe(mark.attrs.href), title: mark.attrs.title }],
  },
  em: marks.get("em"),
  strong: marks.get("strong"),
  strike: {
    parseDOM: [{ tag: "s" }, { tag: "del" }, { tag: "strike" }, { style: "text-decoration=line-through" }],
    toDOM: () => ["s"],
  },
  sup: { parseDOM: [{ tag: "sup" }], toDOM: () => ["sup"], excludes: "sup sub" },
  sub: { parseDOM: [{ tag: "sub" }], toDOM: () => ["sub"], excludes: "sup sub" },
  code: marks.get("code"),
};
