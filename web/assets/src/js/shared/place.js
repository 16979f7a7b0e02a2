// The address of a view: what it is set to stands there, so that a reload and a link restore it.
export function setPlace(values) {
  const u = new URL(location.href);
  for (const [name, [value, usual]] of Object.entries(values))
    value && value !== usual ? u.searchParams.set(name, value) : u.searchParams.delete(name);
  history.replaceState(history.state, "", u);
}
