// Rebuilds web/assets/dist from web/assets/src. Run by `make assets`.
import { build } from "esbuild";
import { execFileSync } from "node:child_process";
import { cpSync, mkdirSync, readFileSync, rmSync, writeFileSync } from "node:fs";

const out = "web/assets/dist";
// Scripts come first, so that one with a fault leaves what was built before.
const scripts = await build({
  entryPoints: {
    studio: "web/assets/src/js/studio.js",
    editor: "web/assets/src/js/pages/editor.js",
    reader: "web/assets/src/js/reader.js",
    "live-worker": "web/assets/src/js/live-worker.js",
  },
  bundle: true,
  minify: true,
  format: "iife",
  target: "es2022",
  outdir: out,
  write: false,
  legalComments: "none",
  logLevel: "warning",
});

rmSync(out, { recursive: true, force: true });
mkdirSync(out + "/fonts", { recursive: true });
for (const file of scripts.outputFiles) writeFileSync(file.path, file.contents);

for (const css of ["studio", "reader"]) {
  execFileSync(
    "node_modules/.bin/tailwindcss",
    ["-i", `web/assets/src/${css}.css`, "-o", `${out}/${css}.css`, "--minify"],
    { stdio: ["ignore", "ignore", "inherit"] },
  );
}
const fonts = {
  fraunces: "fraunces/files/fraunces-latin-wght-normal",
  atkinson: "atkinson-hyperlegible-next/files/atkinson-hyperlegible-next-latin-wght-normal",
  mono: "jetbrains-mono/files/jetbrains-mono-latin-wght-normal",
};
for (const [name, file] of Object.entries(fonts)) {
  cpSync(`node_modules/@fontsource-variable/${file}.woff2`, `${out}/fonts/${name}.woff2`);
}

// Symbols that screens show, and those of the table that tiles, menus and sites choose from: one <symbol> each.
const chosen = readFileSync("internal/core/content/symbols.txt", "utf8").trim().split("\n");
const symbols = {
  ...Object.fromEntries(chosen.map((line) => line.split(" ").slice(0, 2))),
  find: "search",
  file: "paperclip",
  out: "external-link",
  "tone-plain": "info",
  "tone-tip": "lightbulb",
  "tone-warning": "triangle-alert",
  "tone-danger": "octagon-alert",
};
const parts = Object.entries(symbols).map(([id, name]) => {
  const svg = readFileSync(`node_modules/lucide-static/icons/${name}.svg`, "utf8");
  const inner = svg
    .slice(svg.indexOf(">", svg.indexOf("<svg")) + 1, svg.lastIndexOf("</svg>"))
    .replace(/\s+/g, " ")
    .trim();
  return `<symbol id="${id}" viewBox="0 0 24 24" fill="none" stroke="currentColor" stroke-width="2" stroke-linecap="round" stroke-linejoin="round">${inner}</symbol>`;
});
// Our own drawings: the mark, kinds of entry, wicks (states), points.
const line = 'fill="none" stroke="currentColor" stroke-width="1.600" stroke-linejoin="round" stroke-linecap="round"';
const drawn = {
  mark: ["0 0 32 32", readFileSync("web/assets/src/mark.svg", "utf8").replace(/^.*?<svg[^>]*>|<\/svg>\s*$/gs, "")],
  flame: ["0 0 16 20", '<path d="M8 1c4 5 6 7.600 6 11a6 6 0 0 1-12 0c0-3.400 2-6 6-11z" fill="currentColor"/>'],
  ring: ["0 0 16 20", '<circle cx="8" cy="10" r="5.500" fill="none" stroke="currentColor" stroke-width="1.500"/>'],
  "k-page": ["0 0 16 16", `<path d="M3.500 1.800h6.200l2.800 2.800v9.600h-9z" ${line}/>`],
  "k-carried": [
    "0 0 16 16",
    `<path d="M3.500 1.800h6.200l2.800 2.800v9.600h-9z" ${line} stroke-dasharray="2 1.800"/><path d="M1 8.500h6m-2-2 2 2-2 2" ${line}/>`,
  ],
  "k-reference": ["0 0 16 16", `<circle cx="6" cy="8" r="4" ${line}/><circle cx="10" cy="8" r="4" ${line}/>`],
  "k-outside": ["0 0 16 16", `<path d="M6.500 3H2.800v10.200H13V9.500M9 2.800h4.200V7M13 3 7.500 8.500" ${line}/>`],
  "k-file": ["0 0 16 16", `<path d="M5 5v6a3 3 0 0 0 6 0V4a2 2 0 0 0-4 0v6.500a1 1 0 0 0 2 0V5" ${line}/>`],
  "k-group": ["0 0 16 16", `<path d="M2 4h12M2 8h8M2 12h5" ${line}/>`],
  "wick-never": ["0 0 14 14", `<circle cx="7" cy="7" r="4.800" ${line}/>`],
  "wick-live": ["0 0 14 14", '<circle cx="7" cy="7" r="5.500" fill="currentColor"/>'],
  "wick-half": [
    "0 0 14 14",
    `<circle cx="7" cy="7" r="4.800" ${line}/><path d="M7 2.200a4.800 4.800 0 0 0 0 9.600z" fill="currentColor"/>`,
  ],
  "wick-bar": ["0 0 14 14", `<circle cx="7" cy="7" r="4.800" ${line}/><path d="M4.500 7h5" ${line}/>`],
  "point-planned": [
    "0 0 12 12",
    '<path d="M6 0.500c2.600 3.200 4 5 4 7a4 4 0 0 1-8 0c0-2 1.400-3.800 4-7z" fill="currentColor"/>',
  ],
  "point-fine": ["0 0 12 12", '<path d="m1.500 6.500 3 3 6-7" fill="none" stroke="currentColor" stroke-width="2"/>'],
  "point-wrong": ["0 0 12 12", '<path d="m2 2 8 8m0-8-8 8" fill="none" stroke="currentColor" stroke-width="2"/>'],
};
for (const [id, [box, inner]] of Object.entries(drawn))
  parts.push(`<symbol id="${id}" viewBox="${box}">${inner.trim()}</symbol>`);
writeFileSync(`${out}/symbols.svg`, `<svg xmlns="http://www.w3.org/2000/svg">${parts.join("\n")}</svg>\n`);
cpSync("web/assets/src/mark.svg", `${out}/mark.svg`);
