import { lengthOf } from "../../space/vector";
import { rasterizeTriangle } from "../../space/raster";
import type { RowResult, RowSlice } from "./band";
import type { Channel } from "./channels";
import { CHANNELS } from "./channels";
import { SampleBaker } from "./sample-baker";
import type { BakeScene } from "./scene";
import { COUNTS } from "./status";
import { toolsFor } from "./tools";

/**
 * Bakes a band of rows: every sample of a texel that lies on a game triangle sends a ray from outside along
 * the smoothed direction, takes the source's normal where it first meets a front face, and turns it into the
 * tangent space of the game mesh. A sample whose ray meets nothing is counted and takes the closest point; where
 * that lies on an open border of the source, within reach, the game mesh only hangs over there.
 */
export function bakeRows(
  scene: BakeScene,
  { right, up, from, to, wanted }: RowSlice,
): RowResult {
  const tools = toolsFor(scene);
  const { width, height, grid } = scene;
  const count = width * (to - from);
  const values: RowResult["values"] = {};
  for (const name of scene.channels)
    values[name] = new Float32Array(CHANNELS[name].width * count);
  const result = {
    values,
    covered: new Uint8Array(count),
    counts: new Uint32Array(COUNTS.length * scene.canvases.length),
    farthest: new Float32Array(scene.canvases.length),
  };
  const baker = new SampleBaker(scene, tools, result);
  for (const [c, canvas] of scene.canvases.entries())
    for (let t = 0; t < canvas.uvs.length / 6; t++) {
      const q = canvas.uvs.subarray(6 * t, 6 * t + 6);
      const low = (Math.min(q[1], q[3], q[5]) - up) * height;
      const high = (Math.max(q[1], q[3], q[5]) - up) * height;
      if (high < from || low > to) continue;
      baker.triangle(canvas, t, c);
      const fine = width * grid;
      const fineUp = height * grid;
      const shift = from * grid;
      rasterizeTriangle(
        (q[0] - right) * fine,
        (q[1] - up) * fineUp - shift,
        (q[2] - right) * fine,
        (q[3] - up) * fineUp - shift,
        (q[4] - right) * fine,
        (q[5] - up) * fineUp - shift,
        fine,
        (to - from) * grid,
        (row, first, last) => {
          const at = Math.floor(row / grid) * width;
          const middle = row % grid === grid >> 1;
          for (let x = first; x < last; x++) {
            const texel = at + Math.floor(x / grid);
            if (wanted && !wanted[texel]) result.covered[texel]++;
            else
              baker.sample(
                right + (x + 0.5) / fine,
                up + (row + shift + 0.5) / fineUp,
                texel,
                middle && x % grid === grid >> 1,
              );
          }
        },
      );
    }
  for (const name of scene.channels)
    meanOf(values[name]!, CHANNELS[name].width, name, result.covered);
  return { ...result, rays: baker.rays };
}

/** Sums of a texel's samples become their mean: of unit length where they are directions. */
function meanOf(
  sums: Float32Array,
  width: number,
  name: Channel,
  covered: Uint8Array,
): void {
  const { rays, flat } = CHANNELS[name];
  if (flat || (rays && name !== "bent")) return;
  const directions = name === "normal" || name === "object" || name === "bent";
  for (let i = 0; i < covered.length; i++) {
    if (!covered[i]) continue;
    const at = width * i;
    const by = directions
      ? lengthOf(sums[at], sums[at + 1], sums[at + 2]) || 1
      : covered[i];
    for (let k = 0; k < width; k++) sums[at + k] /= by;
  }
}
