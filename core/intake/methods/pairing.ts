import type { Asset } from "../../asset/asset";
import type { Patterns } from "./match";
import { isMismatch, likeliest, matchNames, mismatchOf } from "./match";

/** What of an asset's source and game meshes belongs together and what does not. */
export interface PairingReport {
  pairs: number;
  unmatchedSources: string[];
  unmatchedGames: string[];
  /** For each unmatched game mesh the likeliest sources. */
  likeliest: ReturnType<typeof likeliest>;
  mismatches: { part: string; offset: number; sizeRatio: number }[];
}

/** Source parts without a game mesh, game parts without a source, and pairs that do not coincide. */
export function pairingOf(asset: Asset): PairingReport {
  const parts = asset.parts.filter((part) => !part.repeat);
  const sources = parts.filter((part) => part.source && !part.game);
  const games = parts.filter((part) => part.game && !part.source);
  const both = parts.filter((part) => part.source && part.game);
  // An asset without any game mesh is on its way to one; nothing is missing.
  const waits = games.length + both.length === 0;
  return {
    pairs: both.length,
    unmatchedSources: waits ? [] : sources.map((part) => part.name),
    unmatchedGames: games.map((part) => part.name),
    likeliest: likeliest(
      games.map((part) => ({ name: part.name, mesh: part.game! })),
      sources.map((part) => ({ name: part.name, mesh: part.source! })),
    ),
    mismatches: both.flatMap((part) => {
      const mismatch = mismatchOf(part.source!, part.game!);
      return isMismatch(mismatch) ? [{ part: part.name, ...mismatch }] : [];
    }),
  };
}

/** The asset with its single sources and games paired by name. */
export function pairByName(
  asset: Asset,
  patterns: Patterns,
): { asset: Asset; paired: number } {
  const single = asset.parts.filter((part) => !part.repeat && !part.locked);
  const { pairs } = matchNames(
    single.flatMap((part) => (part.source && !part.game ? part.name : [])),
    single.flatMap((part) => (part.game && !part.source ? part.name : [])),
    patterns,
  );
  let next = asset;
  for (const { source, game, name } of pairs)
    next = join(next, source, game, name);
  return { asset: next, paired: pairs.length };
}

/** Gives a source part the game mesh of another part, which goes. */
export function join(
  asset: Asset,
  source: string,
  game: string,
  name = source,
): Asset {
  const gamePart = asset.parts.find((part) => part.name === game)!;
  const taken = asset.parts.some(
    (part) => part.name === name && ![source, game].includes(part.name),
  );
  return {
    ...asset,
    parts: asset.parts.flatMap((part) => {
      if (part.name === source)
        return [
          {
            ...part,
            name: taken ? source : name,
            game: gamePart.game,
            hulls: [...part.hulls, ...gamePart.hulls],
          },
        ];
      if (part.name === game) return [];
      const follows = part.repeat?.of === source && !taken;
      return [
        follows ? { ...part, repeat: { ...part.repeat!, of: name } } : part,
      ];
    }),
  };
}
