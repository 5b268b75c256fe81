import { route } from "../../answers";

/** All assets, as the home page lists them. */
export default route(async (_, { store, queue }) =>
  (await store.list()).map(({ id, name, changed, head, summary }) => ({
    id,
    name,
    changed,
    revision: head,
    parts: summary.parts,
    source: summary.source,
    game: summary.game,
    budget: summary.budget,
    busy: queue.holds(id),
    standing: summary.standing,
  })),
);
