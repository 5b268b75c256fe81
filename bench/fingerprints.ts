import { createHash } from "node:crypto";
import type { Asset } from "../core/asset/asset";
import { toDocument } from "../core/asset/document";
import { ArnikError } from "../core/base/errors";
import { plainContext } from "../core/base/context";
import { OPERATIONS, findOperation } from "../core/operations";
import { runOperation } from "../core/route";
import { runRoute } from "../core/run-route";
import { DEMO_ASSETS } from "../demo/index";
import { threadWorkers } from "../host/workers";

/**
 * Prints a hash of what every operation makes of demo assets that went through the route, a line each: two versions of
 * the code that print the same lines do the same. Operations that want options refuse, and their refusal counts.
 * `npm run fingerprints -- fish-crate,net-panel`
 */

/** What hangs on the clock and not on the input. */
const CLOCK = /seconds|perSecond$/i;

const hashOf = (value: unknown) =>
  createHash("sha256")
    .update(
      JSON.stringify(value, (key, each: unknown) =>
        CLOCK.test(key)
          ? undefined
          : each instanceof Uint8Array
            ? createHash("sha256").update(each).digest("hex")
            : each,
      ) ?? "",
    )
    .digest("hex")
    .slice(0, 16);

/** Without what Ship made: its report says how long the stages took. */
const documentOf = (asset: Asset) =>
  toDocument(
    { ...asset, results: { ...asset.results, ship: undefined } },
    () => undefined,
  );

const workers = threadWorkers(new URL("./kernel-worker.mjs", import.meta.url));
const context = { ...plainContext(), workers };
const wanted = process.argv[2]?.split(",") ?? Object.keys(DEMO_ASSETS);
for (const name of wanted) {
  const tell = (id: string, made: unknown) =>
    process.stdout.write(`${hashOf(made)}  ${name}  ${id}\n`);
  const { asset } = await runRoute(
    DEMO_ASSETS[name](),
    context,
    {
      begins: () => undefined,
      made: async ({ asset: at, report, headline }, { operation }) => {
        tell(`route ${operation}`, [
          documentOf(at),
          operation.startsWith("ship/") ? null : report,
          headline,
        ]);
      },
    },
    { bake: { rays: 4 } },
  );
  for (const { id } of OPERATIONS)
    try {
      const result = await runOperation(
        findOperation(id),
        asset,
        id.startsWith("bake/") ? { rays: 4 } : {},
        context,
      );
      tell(id, [
        documentOf(result.asset),
        result.headline,
        ...(id.startsWith("ship/")
          ? []
          : [
              result.report,
              result.files?.map((file) => [file.name, file.bytes]),
            ]),
      ]);
    } catch (error) {
      if (!(error instanceof ArnikError)) throw error;
      tell(id, error.message);
    }
}
await workers.close();
