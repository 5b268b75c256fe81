import { mkdtempSync, rmSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import fc from "fast-check";
import { expect, it } from "vitest";
import { createAsset, createPart } from "../../core/asset/asset";
import { ArnikError } from "../../core/base/errors";
import { sphere } from "../../tests/shapes";
import { checkStore } from "./check";
import { ConflictError, NotFoundError } from "./errors";
import { Store } from "./store";

type Act =
  "create" | "commit" | "undo" | "redo" | "restore" | "delete" | "read";
interface Step {
  /** Which of the two stores. */
  by: 0 | 1;
  act: Act;
  /** Which asset, revision or shape, as far as there are some. */
  pick: number;
}

/** Three shapes only, so that streams are shared and go and come back. */
const SHAPES = [1, 2, 3].map((size) => sphere(4, 5, size));
const asset = (pick: number) =>
  createAsset("Ball", [
    createPart("ball", 0, { source: SHAPES[pick % SHAPES.length] }),
  ]);

/** What a store must answer to whoever comes too late; anything else is a fault. */
const isLate = (error: unknown) =>
  error instanceof ConflictError || error instanceof NotFoundError;

async function take(store: Store, { act, pick }: Step): Promise<void> {
  const all = await store.list();
  if (act === "create" || !all.length)
    return void (await store.createAsset(asset(pick), "began"));
  const { id, head } = all[pick % all.length];
  switch (act) {
    case "commit":
      return void (await store.commit(id, head, asset(pick + 1), "shaped"));
    case "undo":
    case "redo":
      return store.step(id, head, act);
    case "restore": {
      const revisions = await store.revisions(id);
      return store.restore(id, head, revisions[pick % revisions.length].id);
    }
    case "delete":
      return store.deleteAsset(id);
    case "read": {
      const read = await store.load(head);
      expect(read.parts[0].source!.positions.length).toBe(
        SHAPES[0].positions.length,
      );
    }
  }
}

it("two stores on one file never leave a stream dangling or find it busy, whatever they do at once", async () => {
  const step = fc.record({
    by: fc.constantFrom<0 | 1>(0, 1),
    act: fc.constantFrom<Act>(
      ...(["create", "commit", "commit", "undo", "redo"] as const),
      ...(["restore", "delete", "read"] as const),
    ),
    pick: fc.nat(11),
  });
  await fc.assert(
    fc.asyncProperty(
      // What stands in one list is done at once.
      fc.array(fc.array(step, { minLength: 1, maxLength: 5 }), {
        minLength: 3,
        maxLength: 10,
      }),
      async (rounds) => {
        const folder = mkdtempSync(join(tmpdir(), "arnik-two-"));
        const first = await Store.open(folder);
        const second = await Store.join(folder, first.owner);
        try {
          for (const round of rounds) {
            const ends = await Promise.allSettled(
              round.map((each) => take([first, second][each.by], each)),
            );
            for (const end of ends)
              if (end.status === "rejected" && !isLate(end.reason))
                throw end.reason instanceof ArnikError
                  ? new Error(`${end.reason.name}: ${end.reason.message}`)
                  : end.reason;
            const { troubles } = await checkStore(first.database, true);
            expect(troubles).toEqual([]);
          }
          for (const { head } of await second.list())
            await expect(second.load(head)).resolves.toBeDefined();
        } finally {
          await second.close();
          await first.close();
          rmSync(folder, { recursive: true, force: true });
        }
      },
    ),
    { numRuns: 25 },
  );
});
