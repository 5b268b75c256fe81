import type { BakedMap } from "../../base/pictures";
import { sampleMap } from "./fidelity";
import type { BakeScene } from "./scene";
import type { Side } from "./seam-sides";
import { SeamLook, goesOn, seamsOf } from "./seam-sides";

/** How much the look jumps where islands of one part meet. */
export interface SeamJump {
  /** Degrees: in the mean, and at one place in twenty. */
  mean: number;
  p95: number;
  /** Where it jumps most, and by how much: metres, degrees. */
  worst: { at: [number, number, number]; angle: number };
  /** Places that were looked at. */
  places: number;
}

/** Where along an edge it is looked. */
const ALONG = [0.25, 0.5, 0.75];

/**
 * How much normal maps disagree over seams: at places along every edge that two triangles of one part share and UVs
 * part, and over which the source goes on smoothly, how far what is shown turns from one side to the other, beyond how
 * far what a bake finds there does.
 * @param maps normal maps of all tiles
 * @returns by part; parts without seams are left out
 */
export function seamJumps(
  scene: BakeScene,
  maps: readonly BakedMap[],
  greenUp: boolean,
  check: () => void = () => {},
): Map<string, SeamJump> {
  const look = new SeamLook(scene);
  const found = new Map<string, { angle: number; at: Float64Array }[]>();
  /** What is shown on a side and what a bake finds there, in the asset's space; null where nothing is told. */
  const lookAt = (side: Side, share: number) => {
    if (!look.go(side, share)) return null;
    const map = maps.find((each) => (each.tile ?? 0) === look.tile);
    if (!map) return null;
    const x = sampleMap(map, look.u, look.v);
    if (!greenUp) x[1] = -x[1];
    return { shown: look.turned(x), truth: look.turned(look.wanted) };
  };
  for (const [one, other, turned] of seamsOf(scene.canvases)) {
    check();
    for (const share of ALONG) {
      const here = lookAt(one, share);
      const at = look.at.slice();
      const there = here && lookAt(other, turned ? 1 - share : share);
      if (!there || !goesOn(here.truth, there.truth)) continue;
      const jump = Math.hypot(
        ...[0, 1, 2].map(
          (k) =>
            here.shown[k] - here.truth[k] - there.shown[k] + there.truth[k],
        ),
      );
      const angle = (360 / Math.PI) * Math.asin(Math.min(1, jump / 2));
      const list = found.get(one.canvas.part);
      if (list) list.push({ angle, at });
      else found.set(one.canvas.part, [{ angle, at }]);
    }
  }
  return new Map([...found].map(([part, list]) => [part, summed(list)]));
}

function summed(list: { angle: number; at: Float64Array }[]): SeamJump {
  list.sort((a, b) => a.angle - b.angle);
  const { angle, at } = list.at(-1)!;
  return {
    mean: list.reduce((sum, each) => sum + each.angle, 0) / list.length,
    p95: list[Math.floor(0.95 * list.length)].angle,
    worst: { at: [at[0], at[1], at[2]], angle },
    places: list.length,
  };
}
