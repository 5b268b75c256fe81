import { describe, expect, it } from "vitest";
import { withEveryStream } from "../../tests/every-stream";
import { sphere } from "../../tests/shapes";
import { plainContext } from "../base/context";
import { KERNELS, findOperation } from "../operations";
import { runOperation } from "../route";
import type { Asset } from "./asset";
import { createAsset, createPart } from "./asset";
import type { AssetDocument } from "./document";
import { toDocument } from "./document";
import { fillDocument, fromDocument } from "./read-document";

const context = plainContext(KERNELS);

/** A document as it lies in the store, and what gives its bytes. */
function stored(asset: Asset) {
  const bytes = new Map<string, Uint8Array>();
  const document = toDocument(asset, (hash, stream) =>
    bytes.set(hash, stream.slice()),
  );
  return {
    document: JSON.parse(JSON.stringify(document)) as AssetDocument,
    get: (hash: string) => bytes.get(hash)!,
  };
}

/** An asset with every mesh that a part may have, and with a record. */
async function rich(): Promise<Asset> {
  const mesh = withEveryStream(sphere(6, 8), 3);
  const { asset } = await runOperation(
    findOperation("reduce/to-budget"),
    createAsset("buoy", [createPart("ball", 0, { source: sphere(8, 12) })]),
    { triangles: 60 },
    context,
  );
  return {
    ...asset,
    parts: [
      {
        ...asset.parts[0],
        previousUnwrap: mesh,
        levels: [mesh],
        dense: mesh,
        light: mesh,
        tried: mesh,
      },
      createPart("other", 1, { source: mesh, game: mesh }),
    ],
  };
}

/** What names were before: of streams, of a part, of the record. */
const OLD: Record<string, string> = {
  seamOverrides: "cuts",
  visibility: "seen",
  previousUnwrap: "laid",
  errorIncrease: "rise",
  removedCount: "gone",
  meshIndex: "where",
};

/** A document with the names that things had before, at every depth. */
const aged = (value: unknown): unknown =>
  Array.isArray(value)
    ? value.map(aged)
    : value && typeof value === "object"
      ? Object.fromEntries(
          Object.entries(value).map(([key, each]) => [
            OLD[key] ?? key,
            aged(each),
          ]),
        )
      : value;

describe("a document", () => {
  it("comes back whole", async () => {
    const asset = await rich();
    const { document, get } = stored(asset);
    expect(fromDocument(document, get)).toEqual(asset);
  });

  it("is read under the names that things had before", async () => {
    const asset = await rich();
    const { document, get } = stored(asset);
    const old = aged(document) as AssetDocument;
    for (const name of Object.values(OLD))
      expect(JSON.stringify(old)).toContain(`"${name}":`);
    expect(fromDocument(old, get)).toEqual(asset);
    expect(fillDocument(old)).toEqual(fillDocument(document));
  });

  it("of long ago has what was not known then", async () => {
    const { document, get } = stored(await rich());
    const bare: Partial<AssetDocument> = { ...document };
    for (const name of [
      ...(["palette", "references", "reports", "record", "painted"] as const),
      "settleWithout" as const,
    ])
      delete bare[name];
    const parts = document.parts.map(
      ({ name, colour, source, game, hulls }) => ({
        ...{ name, colour, locked: false, budget: 0, source, game, hulls },
      }),
    );
    const back = fromDocument({ ...bare, parts } as AssetDocument, get);
    expect(back).toMatchObject({ palette: [], references: [], reports: {} });
    expect(back.record).toBeNull();
    expect(back.parts[1].game).toEqual(
      fromDocument(document, get).parts[1].game,
    );
    expect(back.parts[0]).toMatchObject({
      ...{ group: "", levels: [], standIns: [], repeat: null, dense: null },
      ...{ share: 0, capped: false, previousUnwrap: null, settled: null },
    });
  });
});
