// The rows of a large outline come in pages.

// allRows gets them all, by get(url); told hears how far it is. Where somebody plans meanwhile, it begins again.
export async function allRows(get, url, told = () => {}) {
  for (let tries = 0; tries < 5; tries++) {
    const data = await get(url);
    for (let { next } = data; next;) {
      told(data);
      const more = await get(`${url}?from=${next}`);
      if (more.version !== data.version || more.edition !== data.edition) break;
      data.rows = data.rows.concat(more.rows);
      ({ next } = more);
    }
    if (data.rows.length === data.total) return data;
  }
  throw new Error("The sitemap changes faster than it can be loaded. Please try again in a moment.");
}
