import type { AssetDocument, PartDocument } from "../../core/asset/document";
import { readCatches } from "../../core/bake/methods/catching";

/** What of an asset a trial of its bake needs. */
export interface TrialDocument {
  document: AssetDocument;
  /** Names of the worked parts that are baked; none for all. */
  only: string[];
  /** Whether lighter meshes stand for some sources. */
  light: boolean;
}

/** Triangles of sources up to which the page takes them as they are. */
const MOST_TRIANGLES = 2e6;

/**
 * The part of a document that a trial loads: the chosen parts, what is only baked, and what they catch besides; with
 * the light meshes that the view draws in place of heavy sources where they are too much for a page.
 * @param parts names of chosen parts; none for all
 */
export function trialDocument(
  document: AssetDocument,
  options: Readonly<Record<string, unknown>>,
  parts: readonly string[],
): TrialDocument {
  const only = [
    ...new Set(
      document.parts.flatMap(({ name, repeat }) =>
        parts.includes(name) ? [repeat?.of ?? name] : [],
      ),
    ),
  ];
  const also = readCatches(String(options.catches ?? ""), (name) =>
    document.parts.some((part) => part.name === name),
  );
  const caught = typeof also === "string" ? [] : [...also.values()].flat();
  const isNeeded = ({ name, game }: PartDocument) =>
    !only.length ||
    // Which part something is baked on hangs on all of them then.
    options.spread === true ||
    !game ||
    only.includes(name) ||
    caught.includes(name);
  const needed = document.parts.filter(isNeeded);
  const triangles = needed.reduce(
    (sum, { source, dense, skinned }) =>
      sum + (((skinned && dense) || source)?.triangles ?? 0),
    0,
  );
  const takesLight = triangles > MOST_TRIANGLES;
  const bare = (part: PartDocument): PartDocument => ({
    ...part,
    ...{ hulls: [], levels: [], previousUnwrap: null, tried: null },
    ...{ light: null, dense: part.skinned ? part.dense : null },
    ...(!needed.includes(part) && {
      ...{ source: null, settled: null, dense: null, game: null },
    }),
  });
  const isLight = (part: PartDocument) =>
    takesLight && needed.includes(part) && part.light && !part.skinned;
  return {
    document: {
      ...document,
      ...{ record: null, painted: null, looks: [] },
      ...{ maps: [], aside: [], references: [], reports: {} },
      parts: document.parts.map((part) =>
        isLight(part)
          ? {
              ...bare(part),
              source: part.light,
              settled: { mesh: null, faces: null, done: [] },
            }
          : bare(part),
      ),
    },
    only,
    light: document.parts.some(isLight),
  };
}

/** The hashes of all streams that documents name. */
export const streamsIn = (...documents: unknown[]): Set<string> =>
  new Set(
    [...JSON.stringify(documents).matchAll(/"hash":"([0-9a-f]{64})"/g)].map(
      ([, hash]) => hash,
    ),
  );
