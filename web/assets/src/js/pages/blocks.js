// The kinds of blocks that the page editor knows: a file block_KIND.js for each kind of the server's table, which says what
// it is called and in which order it is offered. A kind says what an empty one is, and how it is drawn into its box:
// draw(ed, block, box), where ed is what the editor knows and box has the name of the kind, the head with its buttons, the
// body, redraw() of the slot it stands in, and dress() for its look.

// loadKinds gives the kinds by their types; known is the server's list of types and names.
export async function loadKinds(known) {
  const load = async ({ type, name }) => [type, { ...(await import(`./block_${type}.js`)).block, name }];
  return Object.fromEntries(await Promise.all(known.map(load)));
}
