import { errorCurves, meshesAt } from "../mesh/collapse-record";
import type { Context } from "../operation";
import type { Asset } from "./asset";
import type { Knee } from "./knee";
import { kneesOf } from "./knee";
import { recordTogether } from "./reduce-meshes";

/** What the knee of an asset's curve will be, before anything is reduced: all sources are collapsed once. */
export function foresee(asset: Asset, budget: number, context: Context): Knee {
  const worked = asset.parts.flatMap(({ name, source, locked, repeat }) =>
    source && !locked && !repeat ? [{ name, source }] : [],
  );
  if (!worked.length) return { knee: null, breaking: [] };
  const timesOf = (name: string) =>
    1 + asset.parts.filter(({ repeat }) => repeat?.of === name).length;
  const times = worked.map(({ name }) => timesOf(name));
  const { record } = recordTogether(
    worked.map(({ source }) => source),
    budget,
    { exchange: false },
    context,
  );
  const { all, meshes } = errorCurves(record, (m) => times[m]);
  const counts = meshesAt(record, budget, (m) => times[m]);
  return kneesOf(
    all,
    worked.map((part, m) => ({
      ...part,
      curve: meshes[m],
      triangles: counts[m],
    })),
    budget,
  );
}
