import { route } from "../../answers";
import { standingOf } from "../../../core/asset/stale";

/** All assets, as the home page lists them. */
export default route(async (_, { store }) =>
  Promise.all(
    (await store.assets()).map(async (row) => {
      const document = await store.documentOf(row.head);
      const count = (which: "source" | "game") =>
        document.parts.reduce(
          (sum, part) => sum + (part[which]?.triangles ?? 0),
          0,
        );
      return {
        id: row.id,
        name: row.name,
        changed: row.changed,
        revision: row.head,
        parts: document.parts.length,
        source: count("source"),
        game: count("game"),
        budget: document.brief.triangles,
        standing: standingOf(document).map(({ stage, state }) => ({
          stage,
          state,
        })),
      };
    }),
  ),
);
