// What waits to be sent: acts in the order in which they were asked for, kept on
// this computer until the server has them.

// mergeOrder puts children into the server's order. Those that only this window
// knows stay behind the sibling that they follow.
export function mergeOrder(had, server, isLocal) {
  const known = new Set(server),
    out = [...server];
  let before = null;
  for (const id of had) {
    if (!known.has(id) && isLocal(id)) out.splice(before === null ? 0 : out.indexOf(before) + 1, 0, id);
    if (known.has(id) || isLocal(id)) before = id;
  }
  return out;
}

// runOf gives the acts at the beginning that go in one request: entries to be added.
export function runOf(items, most = 50) {
  let n = 0;
  while (n < items.length && n < most && items[n].form?.do === "add" && items[n].form.new) n++;
  return items.slice(0, Math.max(n, 1));
}

// pause is how long to wait before the nth try after one that failed.
export const pause = (n) => Math.min(500 * 2 ** n, 8000);

// onThisComputer keeps the entries to be added of one person.
export function onThisComputer(person) {
  const name = `candlepath:adding:${person}`;
  return {
    read() {
      try {
        return JSON.parse(localStorage.getItem(name)) || [];
      } catch {
        return [];
      }
    },
    write(forms) {
      try {
        forms.length ? localStorage.setItem(name, JSON.stringify(forms)) : localStorage.removeItem(name);
      } catch {
        /* the server still gets them */
      }
    },
  };
}
