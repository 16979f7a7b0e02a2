// CommonMark, as texts are kept, in and out of the document that is edited. What cannot be shown as rich text stays as it
// was written, in a part of source text; whatever comes back means the same.
import { Schema, Node } from "prosemirror-model";
import {
  MarkdownParser,
  MarkdownSerializerState,
  defaultMarkdownParser,
  defaultMarkdownSerializer,
} from "prosemirror-markdown";
import MarkdownIt from "markdown-it";
import { proseMarks, proseNodes } from "./prose.js";

// The prose of one text by itself; a page has the same nodes in its slots.
const schema = new Schema({
  nodes: { doc: { content: "prose*" }, ...proseNodes },
  marks: proseMarks,
  topNode: "doc",
});

const md = MarkdownIt("commonmark", { html: true }).enable(["table", "strikethrough"]);
md.set({ maxNesting: 100 }); // deeper ones are lost by the parser; see deepest
const deepest = 40;
md.validateLink = () => true; // what a link must not do is decided where it is shown
md.normalizeLink = md.normalizeLinkText = (url) => url;

// A list is tight where its paragraphs are told to be none.
const tight = (tokens, i) => {
  const { level } = tokens[i];
  for (let k = i + 1; tokens[k].level > level; k++)
    if (tokens[k].type === "paragraph_open" && tokens[k].level === level + 2) return tokens[k].hidden;
  return true;
};
const cell = (tok) => ({ align: /text-align:(right|center)/.exec(tok.attrGet("style") || "")?.[1] || null });

const parser = new MarkdownParser(schema, md, {
  ...defaultMarkdownParser.tokens,
  heading: { block: "heading", getAttrs: (tok) => ({ level: Math.max(+tok.tag.slice(1), 2) }) },
  bullet_list: { block: "bullet_list", getAttrs: (_, tokens, i) => ({ tight: tight(tokens, i) }) },
  ordered_list: {
    block: "ordered_list",
    getAttrs: (tok, tokens, i) => ({ order: +(tok.attrGet("start") ?? 1), tight: tight(tokens, i) }),
  },
  list_item: { block: "list_item", getAttrs: (tok) => ({ checked: tok.meta?.checked ?? null }) },
  s: { mark: "strike" },
  sup: { mark: "sup" },
  sub: { mark: "sub" },
  table: { block: "table" },
  thead: { ignore: true },
  tbody: { ignore: true },
  tr: { block: "table_row" },
  th: { block: "table_header", getAttrs: cell },
  td: { block: "table_cell", getAttrs: cell },
});

// --- in ---

const read = (text, env = {}) => raised(md.parse(text, env));

// raised makes marks of <sup> and <sub>, the one HTML that is edited as rich text, where each ends what it began.
function raised(tokens) {
  for (const t of tokens) {
    const found = (t.children || []).filter((c) => c.type === "html_inline");
    const names = found.map((c) => /^<(\/?)(sup|sub)>$/.exec(c.content));
    if (!found.length || !names.every((m, i) => m && !m[1] === !(i % 2) && (i % 2 === 0 || m[2] === names[i - 1][2])))
      continue;
    if (found.length % 2) continue;
    found.forEach((c, i) => {
      c.type = names[i][2] + (i % 2 ? "_close" : "_open");
      c.nesting = i % 2 ? -1 : 1;
    });
  }
  return tokens;
}

// parse gives the nodes of a text, as JSON.
export function parse(text) {
  if (!text?.trim()) return [];
  const whole = rich(read(text));
  if (whole) return whole;
  const nodes = parts(text);
  return same(nodes, parts(write(nodes))) ? nodes : [verbatim(text.trim())];
}

const same = (a, b) => JSON.stringify(a) === JSON.stringify(b);
const verbatim = (text) => ({ type: "verbatim", content: [{ type: "text", text }] });

// parts parses each part of a text by itself: what comes back as it went in is rich text, the rest is kept as written.
function parts(text) {
  const lines = text.split("\n"),
    env = {},
    out = [];
  let kept = null, // the lines of a verbatim part that may go on
    end = 0,
    any = false;
  const keep = (from, to) => {
    if (kept) kept[1] = to;
    else out.push((kept = [from, to]));
  };
  const runs = topLevel(read(text, env));
  for (const run of runs) any ||= !(run.nodes = rich(run.tokens));
  for (const { tokens, nodes } of runs) {
    const [from, to] = tokens[0].map;
    // Between parts stand blank lines and definitions of links; the latter matter to what is kept as written.
    if (any && lines.slice(end, from).some((l) => l.trim())) keep(end, from);
    if (nodes) {
      kept = null;
      out.push(...nodes);
    } else keep(from, to);
    end = to;
  }
  if (any && lines.slice(end).some((l) => l.trim())) keep(end, lines.length);
  return out.map((n) => (Array.isArray(n) ? verbatim(trimmed(lines.slice(...n)).join("\n")) : n));
}

function trimmed(lines) {
  while (lines.length && !lines[0].trim()) lines.shift();
  while (lines.length && !lines.at(-1).trim()) lines.pop();
  return lines;
}

function topLevel(tokens) {
  const runs = [];
  let depth = 0;
  for (const t of tokens) {
    if (depth === 0) runs.push({ tokens: [] });
    runs.at(-1).tokens.push(t);
    depth += t.nesting;
  }
  return runs;
}

// rich gives the nodes of a part, or null where it cannot come back with the same meaning.
function rich(tokens) {
  if (!supported(tokens)) return null;
  const nodes = build(tokens);
  if (!nodes) return null;
  const again = read(write(nodes));
  return supported(again) && same(nodes, build(again)) ? nodes : null;
}

// Marks inside of the same mark are no difference to anybody, and cannot be told apart.
function doubled(tokens) {
  const open = {};
  return tokens.some((t) => {
    if (!/^(em|strong|s|sup|sub|link)_/.test(t.type)) return false;
    const name = t.type.replace(/_(open|close)$/, "");
    open[name] = (open[name] || 0) + t.nesting;
    return open[name] > 1;
  });
}

const ownPicture = (src) => src.startsWith("/files/");

function supported(tokens) {
  return tokens.every((t, i) => {
    if (t.level > deepest) return false;
    if (t.type === "html_block" || t.type === "html_inline") return false;
    if (t.type === "image" && (!ownPicture(t.attrGet("src")) || t.children.some((c) => c.type !== "text")))
      return false;
    if (t.type === "table_open" && t.level > 0) return false;
    if (t.type === "hardbreak" && tokens.inHeading) return false;
    if (!t.children) return true;
    if (doubled(t.children)) return false;
    const inner = [...t.children];
    inner.inHeading = tokens[i - 1]?.type === "heading_open";
    return supported(inner);
  });
}

function build(tokens) {
  try {
    const doc = new Parsing(tasks(tokens)).doc();
    doc.check();
    return headed(doc.toJSON().content || []);
  } catch {
    return null;
  }
}

// Parsing runs the parser over tokens that are there already.
class Parsing {
  constructor(tokens) {
    this.tokens = tokens;
  }
  doc() {
    const lend = Object.create(parser);
    lend.tokenizer = { parse: () => this.tokens };
    return lend.parse("");
  }
}

// tasks takes the boxes of task lists out of their texts.
function tasks(tokens) {
  tokens.forEach((t, i) => {
    const box =
      t.type === "inline" && tokens[i - 2]?.type === "list_item_open" && /^\[([ xX])\]\s+(?=\S)/.exec(t.content);
    if (!box || t.children[0]?.type !== "text" || !t.children[0].content.startsWith(box[0].trimEnd())) return;
    tokens[i - 2].meta = { checked: box[1] !== " " };
    t.children[0].content = t.children[0].content.slice(box[0].length);
    t.content = t.content.slice(box[0].length);
  });
  return tokens;
}

// headed makes the first column of a table its head where every cell in it is strong as a whole.
function headed(nodes) {
  for (const table of nodes) {
    if (table.type !== "table") continue;
    const firsts = table.content.slice(1).map((row) => row.content[0]);
    const strong = (c) =>
      c.content?.length > 0 && c.content.every((n) => n.type === "text" && n.marks?.some((m) => m.type === "strong"));
    if (!firsts.length || !firsts.every(strong)) continue;
    for (const c of firsts) {
      c.type = "table_header";
      for (const n of c.content) {
        n.marks = n.marks.filter((m) => m.type !== "strong");
        if (!n.marks.length) delete n.marks;
      }
    }
  }
  return nodes;
}

// --- out ---

class State extends MarkdownSerializerState {
  esc(text, startOfLine = false) {
    const starts = startOfLine || this.afterBreak;
    this.afterBreak = false;
    let out = text
      .replace(/[`*\\~[\]_]/g, (c, i) =>
        c === "_" && /\w/.test(text[i - 1] || "") && /\w/.test(text[i + 1] || "") ? c : "\\" + c,
      )
      .replace(/<(?=[A-Za-z/!?])|&(?=#?\w+;)/g, "\\$&");
    if (starts)
      out = out
        .replace(/^\s+/, "")
        .replace(/^([-+](?=\s|$|-)|=+\s*$|#{1,6}(?=\s|$)|>|\||:?-+(?=[\s|:]|$))/, "\\$1")
        .replace(/^(\d{1,9})([.)])(?=\s|$)/, "$1\\$2");
    return out;
  }
  text(text, escape = true) {
    super.text(escape ? text.replace(/\s*\n\s*/g, " ") : text, escape);
  }
}

// Lists that follow each other are told apart by their signs.
const other = (parent, index) => {
  let n = 0;
  while (index - n > 0 && parent.child(index - n - 1).type === parent.child(index).type) n++;
  return n % 2 === 1;
};

const dest = (href) =>
  href === "" || /[\s<>]/.test(href) || !balanced(href)
    ? "<" + href.replace(/[<>\\]/g, "\\$&").replace(/\n/g, " ") + ">"
    : href.replace(/\\(?=[!-/:-@[-`{-~])/g, "\\\\").replace(/&(?=#?\w+;)/g, "\\&");
function balanced(href) {
  let depth = 0;
  for (const c of href) {
    depth += c === "(" ? 1 : c === ")" ? -1 : 0;
    if (depth < 0) return false;
  }
  return depth === 0;
}
const title = (t) => (t ? ` "${t.replace(/[\\"]/g, "\\$&").replace(/&(?=#?\w+;)/g, "\\&")}"` : "");

function ticks(text) {
  let most = 0;
  for (const [run] of text.matchAll(/`+/g)) most = Math.max(most, run.length);
  const pad = /^`|`$/.test(text) || (/^ .*[^ ].* $/.test(text) && text.length > 2) ? " " : "";
  return ["`".repeat(most + 1), pad];
}

const plainURL = (link, parent, index) => {
  const n = parent.child(index);
  return (
    !link.attrs.title &&
    /^[a-z][a-z+.-]{1,31}:[^\s<>]*$/i.test(link.attrs.href) &&
    n.isText &&
    n.text === link.attrs.href &&
    n.marks.at(-1) === link &&
    (index === parent.childCount - 1 || !link.isInSet(parent.child(index + 1).marks))
  );
};

const { nodes: usual, marks: usualMarks } = defaultMarkdownSerializer;
const nodes = {
  ...usual,
  heading(state, node) {
    state.write("#".repeat(node.attrs.level) + " ");
    const from = state.out.length;
    state.renderInline(node, false);
    const words = state.out.slice(from).replace(/(^|\s)(#+)$/, "$1\\$2");
    state.out = state.out.slice(0, from) + words;
    state.closeBlock(node);
  },
  bullet_list(state, node, parent, index) {
    const sign = other(parent, index) ? "* " : "- ";
    state.renderList(node, "  ", () => sign);
  },
  ordered_list(state, node, parent, index) {
    const sign = other(parent, index) ? ") " : ". ",
      start = node.attrs.order ?? 1;
    state.renderList(node, " ".repeat(String(start + node.childCount - 1).length + 2), (i) => {
      const n = String(start + i);
      return n + sign + " ".repeat(Math.max(0, String(start + node.childCount - 1).length - n.length));
    });
  },
  list_item(state, node) {
    if (node.attrs.checked !== null) state.write(node.attrs.checked ? "[x] " : "[ ] ");
    state.renderContent(node);
  },
  code_block(state, node) {
    let fence = "```";
    for (const [run] of node.textContent.matchAll(/`{3,}/g)) if (run.length >= fence.length) fence = run + "`";
    state.write(fence + (node.attrs.params || "") + "\n");
    if (node.textContent) {
      state.text(node.textContent, false);
      state.write("\n");
    }
    state.write(fence);
    state.closeBlock(node);
  },
  horizontal_rule(state, node) {
    state.write("---");
    state.closeBlock(node);
  },
  image(state, node) {
    state.write(`![${state.esc(node.attrs.alt || "")}](${dest(node.attrs.src)}${title(node.attrs.title)})`);
  },
  hard_break(state, node, parent, index) {
    for (let i = index + 1; i < parent.childCount; i++)
      if (parent.child(i).type !== node.type) {
        state.write("\\\n");
        state.afterBreak = true;
        return;
      }
  },
  verbatim(state, node) {
    state.text(node.textContent, false);
    state.closeBlock(node);
  },
  table: writeTable,
};

const marks = {
  ...usualMarks,
  sup: { open: "<sup>", close: "</sup>", mixable: false, expelEnclosingWhitespace: true },
  sub: { open: "<sub>", close: "</sub>", mixable: false, expelEnclosingWhitespace: true },
  strike: { open: "~~", close: "~~", mixable: true, expelEnclosingWhitespace: true },
  code: {
    open: (_state, _mark, parent, index) => ticks(parent.child(index).text).join(""),
    close: (_state, _mark, parent, index) =>
      ticks(parent.child(index - 1).text)
        .reverse()
        .join(""),
    escape: false,
  },
  link: {
    open(state, mark, parent, index) {
      state.inAutolink = plainURL(mark, parent, index);
      return state.inAutolink ? "<" : "[";
    },
    close(state, mark) {
      const auto = state.inAutolink;
      state.inAutolink = undefined;
      return auto ? ">" : `](${dest(mark.attrs.href)}${title(mark.attrs.title)})`;
    },
    mixable: true,
  },
};

const stateOf = () => new State(nodes, marks, { strict: true });

function writeTable(state, table) {
  const signs = { right: "--:", center: ":-:" };
  // A head of its own for the first column is written as strong words.
  const column = table.childCount > 1 && all(table, (row, i) => i === 0 || row.firstChild.type.name === "table_header");
  table.forEach((row, _, i) => {
    const cells = [];
    row.forEach((c, _o, k) => cells.push(cellText(c, i > 0 && k === 0 && column)));
    state.ensureNewLine();
    state.write(`| ${cells.join(" | ")} |`);
    if (i > 0) return;
    const line = [];
    row.forEach((c) => line.push(signs[c.attrs.align] || "---"));
    state.ensureNewLine();
    state.write(`| ${line.join(" | ")} |`);
  });
  state.closeBlock(table);
}

function all(node, test) {
  let ok = true;
  node.forEach((child, _, i) => (ok &&= test(child, i)));
  return ok;
}

function cellText(node, strong) {
  const inner = stateOf();
  inner.renderInline(node, false);
  const out = inner.out.replace(/\\?\n/g, " ").replace(/\|/g, "\\|").trim();
  return strong && out ? `**${out}**` : out;
}

// serialize writes the children of a node as CommonMark.
export function serialize(node) {
  const state = stateOf();
  state.renderContent(node);
  return state.out;
}

// rewrite reads a text and writes it anew; it means the same.
export const rewrite = (text) => write(parse(text));

const write = (json) => serialize(Node.fromJSON(schema, { type: "doc", content: json }));
