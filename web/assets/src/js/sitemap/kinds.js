// The kinds of entries, as they are called.
export const kindWords = {
  page: "page",
  carried: "carried page",
  reference: "reference",
  outside: "outside link",
  file: "file",
  group: "group",
};
export const isPage = (n) => n.k === "page" || n.k === "carried";
