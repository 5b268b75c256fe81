import { recordTogether, seekMeshes } from "../../decimate/reduce-together";
import { carrySeams } from "../../mesh/carry-seams";
import type { Mesh } from "../../mesh/mesh";
import type { Context } from "../../base/context";
import { withTwinsAlike } from "./alike/twin-pieces";
import type { UnwrapMesh } from "./unwrap-mesh";
import { prepareUnwrap } from "./chart";
import type { LaidIsland, SeamRules } from "./islands";
import { findIslands } from "./islands";
import { boxOf } from "./sheet-islands";
import { splitForSheet } from "./split-for-sheet";
import type { SeenFrom } from "./seams/exposure";
import { exposureOf, exposureRanks } from "./seams/exposure";
import { seamsFromUvs } from "../../mesh/seams-from-uvs";
import { symmetricSeams } from "./seams/symmetric";

export interface IslandOfMesh extends LaidIsland {
  /** Which of the meshes it belongs to. */
  mesh: number;
}

export interface LayOutOptions {
  /** L2 stretch and spread of density that an island may have. */
  stretch: number;
  spread: number;
  /** About how many islands there may be at most, or 0 for as few as the stretch allows. */
  islands: number;
  /** How much seams should hide, 0 … 1, and from where. */
  hide: number;
  from: SeenFrom;
  /** Seams of symmetric meshes lie alike on both sides. */
  symmetric: boolean;
  /** Seams that stay whatever else is found, for each mesh: cornerCount, 1 for a seam. */
  keep: readonly (Uint8Array | null)[];
}

export const LAY_OUT_DEFAULTS: LayOutOptions = {
  stretch: 1.08,
  spread: 0.09,
  islands: 0,
  hide: 0.8,
  from: "standing",
  symmetric: true,
  keep: [],
};

/** Limits give way by this factor until there are few enough islands, so many times at the most. */
const LOOSER = 1.7;
const LOOSENED = 5;

/** Finds the islands of several meshes that will share a sheet. */
export function layOut(
  meshes: readonly Mesh[],
  wanted: Partial<LayOutOptions>,
  context: Context,
): IslandOfMesh[] {
  const options = { ...LAY_OUT_DEFAULTS, ...wanted };
  const areas = meshes.map((mesh) => prepareUnwrap(mesh).areas);
  const ranks =
    options.hide > 0
      ? exposureRanks(
          exposureOf(meshes, options.from, () => context.check()),
          areas,
        )
      : null;
  const prepare = (mesh: Mesh, i: number, keep: Uint8Array | null) =>
    prepareUnwrap(mesh, keep, ranks && { ranks: ranks[i], hide: options.hide });
  let { stretch, spread } = options;
  for (let turn = 0; ; turn++) {
    const found = layAll(
      meshes,
      prepare,
      { ...options, stretch, spread },
      context,
    );
    if (
      !options.islands ||
      found.length <= options.islands ||
      turn === LOOSENED
    )
      return found;
    stretch = 1 + LOOSER * (stretch - 1);
    spread *= LOOSER;
  }
}

function layAll(
  meshes: readonly Mesh[],
  prepare: (mesh: Mesh, i: number, keep: Uint8Array | null) => UnwrapMesh,
  options: LayOutOptions,
  context: Context,
): IslandOfMesh[] {
  const prepared = meshes.map((mesh, i) =>
    prepare(mesh, i, options.keep[i] ?? null),
  );
  const area = prepared.reduce(
    (sum, m) => sum + m.areas.reduce((a, b) => a + b, 0),
    0,
  );
  const faces = prepared.reduce((sum, m) => sum + m.areas.length, 0);
  const rules: SeamRules = {
    stretch: options.stretch,
    spread: options.spread,
    length: 1.6 * Math.sqrt(area),
    bulk: 0.25,
    large: 0.01 * area,
  };
  let laid = 0;
  const single = prepared.flatMap((m, mesh) => {
    const find = (on: UnwrapMesh) =>
      findIslands(on, rules, (count) => {
        laid += count;
        context.check();
        context.progress(Math.min(1, laid / faces), "laying islands flat");
      });
    const drawn =
      m.areas.length > DENSE ? seamsOfLighter(m.mesh, options, context) : null;
    if (drawn) options.keep[mesh]?.forEach((mark, c) => (drawn[c] |= mark));
    let islands = find(drawn ? prepare(m.mesh, mesh, drawn) : m);
    const alike = options.symmetric ? symmetricSeams(m, islands) : null;
    if (alike) {
      // Seams that were given stay, whether or not the other side has them too.
      options.keep[mesh]?.forEach((mark, c) => (alike[c] |= mark));
      const both = find(prepare(m.mesh, mesh, alike));
      if (both.length <= islands.length + 2) islands = both;
    }
    return islands.map((island) => ({ ...island, mesh }));
  });
  const found = withTwinsAlike(
    meshes,
    meshes.map((_, i) => options.keep[i] ?? null),
    single,
  );
  const mayBeSplit = prepared.map(
    ({ areas }, mesh) =>
      areas.length <= DENSE && !options.keep[mesh]?.some((mark) => mark),
  );
  return options.islands || !mayBeSplit.some(Boolean)
    ? found
    : splitForSheet(
        prepared,
        found,
        rules,
        (mesh) => mayBeSplit[mesh],
        () => context.check(),
      );
}

/** From so many faces on, seams are found on a mesh of so many triangles and drawn over. */
const DENSE = 9000;
const LIGHTER = 2500;

/**
 * Seams of a dense mesh, found on a lighter one of the same shape: looking for them asks for some twenty layouts, and
 * a layout of 20 000 triangles takes as long as all of those together on 2 500.
 */
function seamsOfLighter(
  mesh: Mesh,
  options: LayOutOptions,
  context: Context,
): Uint8Array | null {
  const quiet = { ...context, progress() {} };
  const { record } = recordTogether(
    [{ ...mesh, uvs: null, seams: null, seamOverrides: null }],
    LIGHTER,
    { smallest: true },
    quiet,
  );
  const [light] = seekMeshes(record, [mesh.materials], { budget: LIGHTER });
  if (!light) return null;
  const islands = layOut(
    [light],
    { ...options, islands: 0, symmetric: false, keep: [] },
    quiet,
  );
  return carrySeams(light, marksOf(light, islands), mesh);
}

/** Edges at which islands part or are cut open, from both sides. */
function marksOf(mesh: Mesh, islands: readonly LaidIsland[]): Uint8Array {
  const [laid] = spreadOut(
    [mesh],
    islands.map((island) => ({ ...island, mesh: 0 })),
  );
  return laid.seams!;
}

/** Free space between islands that are only spread out, as a share of the longest. */
const APART = 0.02;

/**
 * Writes islands into copies of the meshes, one beside the other within 0 … 1, to be packed later.
 * @param aspect width of the sheet against its height
 */
export function spreadOut(
  meshes: readonly Mesh[],
  islands: readonly IslandOfMesh[],
  aspect = 1,
): Mesh[] {
  const boxes = islands.map(({ flat }) => boxOf(flat.uv));
  const order = islands
    .map((_, i) => i)
    .sort(
      (i, j) => boxes[j][3] - boxes[j][1] - boxes[i][3] + boxes[i][1] || i - j,
    );
  const total = boxes.reduce(
    (sum, [x0, y0, x1, y1]) => sum + (x1 - x0) * (y1 - y0),
    0,
  );
  const longest = Math.max(
    1e-9,
    ...boxes.map(([x0, y0, x1, y1]) => Math.max(x1 - x0, y1 - y0)),
  );
  const wide = Math.max(longest, Math.sqrt(total)) * (1 + APART);
  const gap = APART * longest;
  const at: [number, number][] = [];
  let x = gap;
  let y = gap;
  let row = 0;
  for (const i of order) {
    const [x0, y0, x1, y1] = boxes[i];
    if (x > gap && x + x1 - x0 > wide) {
      x = gap;
      y += row + gap;
      row = 0;
    }
    at[i] = [x - x0, y - y0];
    x += x1 - x0 + gap;
    row = Math.max(row, y1 - y0);
  }
  const scale = 1 / Math.max(wide + 2 * gap, y + row + gap);
  const uvs = meshes.map((mesh) => new Float32Array(2 * mesh.corners.length));
  islands.forEach(({ chart, flat, mesh }, i) =>
    chart.corners.forEach((corner, k) => {
      const v = chart.vertexOfCorner[k];
      uvs[mesh][2 * corner] = scale * (flat.uv[2 * v] + at[i][0]);
      uvs[mesh][2 * corner + 1] =
        aspect * scale * (flat.uv[2 * v + 1] + at[i][1]);
    }),
  );
  return meshes.map((mesh, m) => ({
    ...mesh,
    uvs: uvs[m],
    seams: seamsFromUvs(mesh, uvs[m]),
    held: null,
    copies: null,
  }));
}
