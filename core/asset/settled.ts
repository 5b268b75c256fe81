import type { Mesh } from "../mesh/mesh";
import { takeFaces } from "../mesh/change-faces";
import { ON_CORNERS } from "../mesh/streams";
import type { Settled } from "../settle/settle";
import type { SettledSource } from "../settle/settled-of";
import { settleMesh } from "../settle/settle";
import { keepSettled } from "../settle/settled-of";
import type { Context } from "../base/context";
import type { Asset, Part } from "./asset";
import { mapParts } from "./parts";

/**
 * Settles every source that has changed, by the rules the asset leaves on, and keeps that with it. What only
 * hangs on faces (IDs, density, what is seen) is taken over without settling anew.
 */
export function withSettledSources(
  asset: Asset,
  before: Asset | undefined,
  { check, progress }: Pick<Context, "check" | "progress">,
): Asset {
  const without = new Set(asset.settleWithout);
  const alike =
    before && without.size === before.settleWithout.length
      ? before.settleWithout.every((rule) => without.has(rule))
      : false;
  const known = new Map<Float32Array, Part>();
  if (alike)
    for (const part of before!.parts)
      if (part.source && part.settled) known.set(part.source.positions, part);
  const current = (part: Part) =>
    part.source
      ? known.get(part.source.positions)?.source === part.source &&
        known.get(part.source.positions)?.settled === part.settled
      : !part.settled;
  if (asset.parts.every(current)) return asset;
  return mapParts(asset, (part) => {
    if (current(part)) return part;
    if (!part.source) return { ...part, settled: null };
    const old = known.get(part.source.positions);
    const settled =
      old && sameCorners(old.source!, part.source)
        ? takenOver(old.settled!, part.source)
        : settledBy(part.source, without, () => {
            progress(0.95, `settling ${part.name}`);
            check();
          });
    registerSettled(part.source, settled);
    return { ...part, settled };
  });
}

/** Makes what is kept with a source known to all that work on it. */
export function registerSettled(source: Mesh, settled: SettledSource): void {
  keepSettled(source, {
    mesh: settled.mesh ?? source,
    faces: settled.faces,
    done: [...settled.done],
  });
}

function settledBy(
  source: Mesh,
  without: ReadonlySet<Settled["rule"]>,
  check: () => void,
): SettledSource {
  const { mesh, faces, done } = settleMesh(source, without, check);
  return { mesh: mesh === source ? null : mesh, faces, done };
}

function sameCorners(a: Mesh, b: Mesh): boolean {
  return (
    a.positions === b.positions &&
    a.corners === b.corners &&
    a.faceStarts === b.faceStarts &&
    ON_CORNERS.every((name) => a[name] === b[name])
  );
}

/** What a source was settled to, with what hangs on the faces of one of the same shape. */
export function takenOver(settled: SettledSource, source: Mesh): SettledSource {
  if (!settled.mesh || !settled.faces) return settled;
  return { ...settled, mesh: takeFaces(settled.mesh, source, settled.faces) };
}
