import { errorCurves, meshesAt } from "../decimate/collapse-record";
import type { Context } from "../base/context";
import { spanOf } from "../base/context";
import type { Asset } from "./asset";
import { clearNames, withSeenFaces } from "./hidden";
import type { Knee } from "./knee";
import { kneesOf } from "./knee";
import { recordTogether } from "../decimate/reduce-together";
import { validStandIns } from "./stand-ins";
import { workedSources } from "./worked-sources";

/**
 * What the knee of an asset's curve will be, before anything is reduced: what is worked on is collapsed once, with
 * what nobody sees counting next to nothing, as a reduction does.
 */
export function foresee(asset: Asset, budget: number, context: Context): Knee {
  const looked = withSeenFaces(
    asset,
    clearNames(asset),
    spanOf(context, 0, 0.3),
  );
  const { worked, left, timesOf } = workedSources(
    looked.asset,
    budget,
    (part) =>
      validStandIns(part).reduce((sum, { triangles }) => sum + triangles, 0),
  );
  if (!worked.length || left < 1) return { knee: null, breaking: [] };
  const times = (m: number) => timesOf(worked[m].name);
  const { record } = recordTogether(
    worked.map(({ mesh }) => mesh),
    left,
    { seen: true },
    spanOf(context, 0.3, 1),
  );
  const { all, meshes } = errorCurves(record, times);
  const counts = meshesAt(record, left, times);
  const unseen = new Set(looked.hidden.map(({ part }) => part));
  const parts = worked.flatMap(({ name, mesh }, m) =>
    unseen.has(name)
      ? []
      : [{ name, source: mesh, curve: meshes[m], triangles: counts[m] }],
  );
  return kneesOf(all, parts, budget);
}
