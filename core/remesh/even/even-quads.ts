import type { EvenOptions } from "./even-options";
import { onLattice } from "./lattice-mesh";
import { ProjectionTarget } from "./projection-target";
import { buildBvh } from "../../space/bvh";
import { ClosestPoint } from "../../space/closest-point";
import { Fit } from "../../decimate/fit";
import type { Mesh } from "../../mesh/mesh";
import { drawSamples } from "../../decimate/samples";
import { faceCount, triangleCount } from "../../mesh/mesh";
import { createMesh } from "../../mesh/change-faces";
import { pairQuads, quadShare } from "../pair-quads";
import type { Triangles } from "../../decimate/soup";
import { gatherSoup } from "../../decimate/soup";
import { triangulate } from "../../mesh/triangulate";
import { gradeByBends } from "./grading";
import { squareUp } from "./square-up";
import type { WorkMesh } from "./work-mesh";
import { workMesh } from "./work-mesh";

/** Work triangles for each quad, and their longest edge against the quad's. */
const WORK = 14;
const FINEST = 0.5;
/** How often the step is set anew to come near the wanted count. */
const TRIES = 4;
/** So many more where none kept to the budget yet: small pieces and creases ask for quads whatever the size. */
const MORE_TRIES = 6;

/** How often quads are cut anew, and rounds of fitting after each time. */
const CUTS = 3;
const FITS = 2;

/**
 * An even mesh, mostly or wholly of quads, over any source: fields of directions and positions (Jakob et al. 2015)
 * on a fine triangle mesh; edges between vertices that share a lattice point are collapsed as far as the topology
 * allows, so that what is closed stays closed and no hole can come; triangles are then joined two by two, squared
 * up and fitted to the source.
 * @returns at most the wanted number of triangles
 */
export function evenQuads(
  source: Mesh,
  options: EvenOptions,
  check: () => void,
): Mesh {
  const wanted = options.triangles;
  const area = workArea(source);
  const ground = new ProjectionTarget(source);
  let step = Math.sqrt((2 * area) / wanted);
  let best: Mesh | null = null;
  const work = workMesh(source, FINEST * step, (WORK * wanted) / 2, check);
  setSizes(work, options);
  for (
    let round = 0;
    round < TRIES || (!best && round < TRIES + MORE_TRIES);
    round++
  ) {
    check();
    const made = onLattice(work, step, options, ground, check);
    const mesh =
      options.pure && quadShare(made) < 1
        ? splitAll(onLattice(work, 2 * step, options, ground, check))
        : made;
    const count = triangleCount(mesh);
    if (count <= options.triangles && (!best || count > triangleCount(best)))
      best = mesh;
    if (count <= options.triangles && count >= 0.96 * options.triangles) break;
    const over = Math.sqrt(count / (0.98 * options.triangles));
    step *= round < TRIES - 1 ? over : Math.max(1.4, over);
  }
  best ??= pairQuads(
    createMesh({
      positions: new Float32Array(0),
      corners: new Uint32Array(0),
      faceStarts: new Uint32Array(1),
    }),
  );
  if (options.pure) best = squareUp(best, ground, 10, options.grading > 1);
  return { ...fitted(best, source, work, check), materials: source.materials };
}

function workArea(source: Mesh): number {
  const { vertices } = triangulate(source);
  const p = source.positions;
  let area = 0;
  for (let t = 0; t < vertices.length; t += 3) {
    const [a, b, c] = [
      3 * vertices[t],
      3 * vertices[t + 1],
      3 * vertices[t + 2],
    ];
    const u = [0, 1, 2].map((k) => p[b + k] - p[a + k]);
    const v = [0, 1, 2].map((k) => p[c + k] - p[a + k]);
    area +=
      Math.hypot(
        u[1] * v[2] - u[2] * v[1],
        u[2] * v[0] - u[0] * v[2],
        u[0] * v[1] - u[1] * v[0],
      ) / 2;
  }
  return area;
}

/** Sets the wanted length of edges, by bends and by what was painted, smoothed: the lattice can only change slowly. */
function setSizes(work: WorkMesh, { sizeAt, grading }: EvenOptions): void {
  const { metric, positions, starts, links } = work;
  if (grading > 1) gradeByBends(work, grading);
  if (!sizeAt) return;
  const size = new Float64Array(positions.length / 3);
  for (let v = 0; v < size.length; v++)
    size[v] = sizeAt(
      positions[3 * v],
      positions[3 * v + 1],
      positions[3 * v + 2],
    );
  for (let round = 0; round < 20; round++) {
    const before = size.slice();
    for (let v = 0; v < size.length; v++) {
      let sum = before[v];
      for (let k = starts[v]; k < starts[v + 1]; k++) sum += before[links[k]];
      size[v] = sum / (1 + starts[v + 1] - starts[v]);
    }
  }
  // Only what is wanted finer than the rest counts: all finer alike is the same count all the same.
  let wanted = 0;
  for (let v = 0; v < size.length; v++) wanted += 1 / size[v] ** 2;
  const mean2 = wanted / (size.length || 1);
  for (let v = 0; v < size.length; v++)
    for (let k = 0; k < 6; k++) metric[6 * v + k] /= size[v] ** 2 * mean2;
}

/** Every face with n corners becomes n quads round its middle. */
function splitAll(mesh: Mesh): Mesh {
  const points = Array.from(mesh.positions);
  const corners: number[] = [];
  const middles = new Map<number, number>();
  const count = mesh.positions.length / 3;
  const middle = (a: number, b: number) => {
    const key = Math.min(a, b) * count + Math.max(a, b);
    let v = middles.get(key);
    if (v === undefined) {
      v = points.length / 3;
      for (let k = 0; k < 3; k++)
        points.push(
          (mesh.positions[3 * a + k] + mesh.positions[3 * b + k]) / 2,
        );
      middles.set(key, v);
    }
    return v;
  };
  for (let f = 0; f < faceCount(mesh); f++) {
    const ring = Array.from(
      mesh.corners.subarray(mesh.faceStarts[f], mesh.faceStarts[f + 1]),
    );
    const n = ring.length;
    const centre = points.length / 3;
    for (let k = 0; k < 3; k++)
      points.push(
        ring.reduce((sum, v) => sum + mesh.positions[3 * v + k], 0) / n,
      );
    for (let k = 0; k < n; k++)
      corners.push(
        ring[k],
        middle(ring[k], ring[(k + 1) % n]),
        centre,
        middle(ring[(k + n - 1) % n], ring[k]),
      );
  }
  return createMesh({
    positions: Float32Array.from(points),
    corners: Uint32Array.from(corners),
    faceStarts: new Uint32Array(corners.length / 4 + 1).map((_, f) => 4 * f),
  });
}

/** Fits the vertices to the source, edges left as they are; quads that moved may be cut the other way. */
function fitted(
  mesh: Mesh,
  source: Mesh,
  near: WorkMesh,
  check: () => void,
): Mesh {
  const soup = gatherSoup([source]);
  const samples = drawSamples(soup, Math.max(20_000, 8 * triangleCount(mesh)));
  const goal = {
    positions: near.positions.map((x, i) => x - soup.centre[i % 3]),
    triangles: near.triangles,
  };
  const nearest = new ClosestPoint(
    buildBvh(Float32Array.from(goal.positions), goal.triangles),
  );
  for (let pass = 0; pass < CUTS; pass++) {
    const { vertices, faces } = triangulate(mesh);
    const state: Triangles = {
      positions: Float64Array.from(
        mesh.positions,
        (x, i) => x - soup.centre[i % 3],
      ),
      triangles: vertices.slice(),
      owner: new Uint16Array(faces.length),
      material: new Uint16Array(faces.length),
      id: new Uint16Array(faces.length),
      centre: soup.centre,
    };
    new Fit(state, samples, goal, nearest, false).run(0, FITS, check);
    mesh = {
      ...mesh,
      positions: Float32Array.from(
        state.positions,
        (x, i) => x + soup.centre[i % 3],
      ),
    };
  }
  return mesh;
}
