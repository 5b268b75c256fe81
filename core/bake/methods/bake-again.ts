import type { BakedMap } from "../../base/pictures";
import { tileAt } from "../../mesh/tiles";
import { rasterizeTriangle } from "../../space/raster";
import type { BakeScene } from "./scene";

/** What stands of an earlier bake. */
export interface Standing {
  maps: readonly BakedMap[];
  /** Parts whose islands stay as they are in them. */
  kept: ReadonlySet<string>;
  /** Those of them that would come out otherwise now: what they run on into stays with them. */
  older: ReadonlySet<string>;
}

/** Which texels of a sheet are written anew, and for which rays are cast; texelCount each, 1 for yes. */
export interface Again {
  written: Uint8Array;
  wanted: Uint8Array;
}

/** Texels round a texel that taking the grain out reads. */
const GRAIN = 2;

/** How far into the ground what an older island runs on into stays with it at most, texels. */
const OLD_GROUND = 16;

/**
 * What has to be baked of a sheet so that it comes out as if all of it were: the islands that are not kept, the
 * ground, and what grain lends to each other; and of the islands that are kept the border, which runs on into the
 * ground, and what that is smoothed with.
 * @param reach texels that masks look about
 */
export function bakedAgain(
  scene: BakeScene,
  { kept, older }: Pick<Standing, "kept" | "older">,
  padding: number,
  right: number,
  up: number,
  reach: number,
): Again {
  const { width, height } = scene;
  const stays = new Uint8Array(width * height);
  const fresh = new Uint8Array(width * height);
  const old = new Uint8Array(width * height);
  for (const { part, uvs } of scene.canvases) {
    cover(scene, uvs, right, up, kept.has(part) ? stays : fresh);
    if (older.has(part)) cover(scene, uvs, right, up, old);
  }
  const lent = Math.max(GRAIN, reach);
  const nearFresh = grown(fresh, width, height, lent);
  const written = stays.map((mark, i) => (mark && !nearFresh[i] ? 0 : 1));
  const ground = stays.map((mark, i) => (mark || fresh[i] ? 0 : 1));
  if (older.size) {
    const by = Math.min(padding, OLD_GROUND);
    const nearOld = grown(old, width, height, by);
    const nearNew = grown(fresh, width, height, by);
    for (let i = 0; i < written.length; i++)
      if (old[i] ? !fresh[i] : ground[i] && nearOld[i] && !nearNew[i])
        written[i] = 0;
  }
  const nearGround = grown(ground, width, height, 1);
  const needed = written.map((mark, i) =>
    !ground[i] && (mark || nearGround[i]) ? 1 : 0,
  );
  const wanted = grown(needed, width, height, GRAIN + reach);
  for (let i = 0; i < wanted.length; i++) if (ground[i]) wanted[i] = 0;
  return { written, wanted };
}

/** Marks the texels of a sheet that islands lie on. @returns texelCount, from its bottom: 1 for yes */
export function coveredBy(scene: BakeScene, tile: number): Uint8Array {
  const marks = new Uint8Array(scene.width * scene.height);
  const [right, up] = tileAt(tile);
  for (const { uvs } of scene.canvases) cover(scene, uvs, right, up, marks);
  return marks;
}

/** Marks the texels that samples of triangles land on. @param uvs 6 × triangleCount, sheets */
function cover(
  { width, height, grid }: BakeScene,
  uvs: Float32Array,
  right: number,
  up: number,
  marks: Uint8Array,
): void {
  const [across, along] = [width * grid, height * grid];
  for (let i = 0; i < uvs.length; i += 6)
    rasterizeTriangle(
      (uvs[i] - right) * across,
      (uvs[i + 1] - up) * along,
      (uvs[i + 2] - right) * across,
      (uvs[i + 3] - up) * along,
      (uvs[i + 4] - right) * across,
      (uvs[i + 5] - up) * along,
      across,
      along,
      (row, first, last) => {
        const at = Math.floor(row / grid) * width;
        for (let x = first; x < last; x++) marks[at + Math.floor(x / grid)] = 1;
      },
    );
}

/** Marks and all within some texels of them, each way. @param marks width × height, 1 for yes; @returns as many */
function grown(
  marks: Uint8Array,
  width: number,
  height: number,
  by: number,
): Uint8Array {
  const all = Uint8Array.from(marks);
  for (let y = 0; y < height; y++) grow(all, y * width, 1, width, by);
  for (let x = 0; x < width; x++) grow(all, x, width, height, by);
  return all;
}

/** Grows the marks of one row or column, forth and back. */
function grow(
  marks: Uint8Array,
  from: number,
  step: number,
  count: number,
  by: number,
): void {
  // What was added forth must not grow again on the way back: 2 until then.
  let since = by;
  for (let i = 0, at = from; i < count; i++, at += step)
    if (marks[at]) since = 0;
    else if (since++ < by) marks[at] = 2;
  since = by;
  for (let i = 0, at = from + (count - 1) * step; i < count; i++, at -= step)
    if (marks[at] === 1) since = 0;
    else if (since++ < by || marks[at]) marks[at] = 2;
  for (let i = 0, at = from; i < count; i++, at += step)
    if (marks[at]) marks[at] = 1;
}

/**
 * Puts what stands back into a map, wherever it was not written anew.
 * @param map changed in place; @param written width × height from the bottom of the sheet, 1 where the new map counts
 */
export function putBack(
  { width, height, channels, pixels }: BakedMap,
  standing: BakedMap,
  written: Uint8Array,
): void {
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) {
      if (written[(height - 1 - y) * width + x]) continue;
      const at = channels * (y * width + x);
      for (let k = 0; k < channels; k++)
        pixels[at + k] = standing.pixels[at + k];
    }
}

/** The map of a kind and tile as it stands, where it has the shape of a new one; undefined where not. */
export const standingMap = (
  maps: readonly BakedMap[],
  like: Omit<BakedMap, "pixels" | "channels">,
): BakedMap | undefined =>
  maps.find(
    (map) =>
      map.kind === like.kind &&
      (map.tile ?? 0) === (like.tile ?? 0) &&
      map.width === like.width &&
      map.height === like.height &&
      map.depth === like.depth,
  );
