import { ProjectionTarget } from "./projection-target";
import { buildBvh } from "../../space/bvh";
import { ClosestPoint } from "../../space/closest-point";
import { Fit } from "../../decimate/fit";
import type { Mesh } from "../../mesh/mesh";
import { drawSamples } from "../../decimate/samples";
import { faceCount, triangleCount } from "../../mesh/mesh";
import { createMesh, meshFromTriangles } from "../../mesh/change-faces";
import { pairQuads, quadShare } from "../pair-quads";
import type { Triangles } from "../../decimate/soup";
import { gatherSoup } from "../../decimate/soup";
import { triangulate } from "../../mesh/triangulate";
import { quadFields, stepsBetween } from "./fields";
import { gradeByBends, lengthAlong } from "./grading";
import { mergeSingles } from "./merge-singles";
import { squareUp } from "./square-up";
import { Topology } from "./topology";
import type { WorkMesh } from "./work-mesh";
import { workMesh } from "./work-mesh";

export interface EvenOptions {
  /** Triangles wanted, two for a quad. */
  triangles: number;
  /** Only quads, no triangle left. */
  pure: boolean;
  /** Wanted edge length at a place relative to the mean, from painted density; null for even all over. */
  sizeAt: ((x: number, y: number, z: number) => number) | null;
  /** Longest edge against the shortest where bends ask for smaller quads; 1 for even all over. */
  grading: number;
  /** Strokes that edges should follow: 6 numbers a piece, from and to, metres. */
  guides: Float32Array | null;
}

/** Work triangles for each quad, and their longest edge against the quad's. */
const WORK = 14;
const FINEST = 0.5;
/** Share of the faces that may stay triangles where quads are not asked for throughout. */
const SINGLES = 0.02;
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

function guideDirections(
  work: WorkMesh,
  guides: Float32Array | null,
  step: number,
) {
  if (!guides?.length) return null;
  const found = new Float64Array(work.positions.length);
  for (let v = 0; v < found.length; v += 3) {
    let least = (0.75 * step) ** 2;
    for (let g = 0; g < guides.length; g += 6) {
      const d = [0, 1, 2].map((k) => guides[g + 3 + k] - guides[g + k]);
      const e = [0, 1, 2].map((k) => work.positions[v + k] - guides[g + k]);
      const dd = d[0] ** 2 + d[1] ** 2 + d[2] ** 2 || 1;
      const t = Math.max(
        0,
        Math.min(1, (d[0] * e[0] + d[1] * e[1] + d[2] * e[2]) / dd),
      );
      const far = e.reduce((sum, x, k) => sum + (x - t * d[k]) ** 2, 0);
      if (far >= least) continue;
      least = far;
      for (let k = 0; k < 3; k++) found[v + k] = d[k] / Math.sqrt(dd);
    }
  }
  return found;
}

function onLattice(
  work: WorkMesh,
  step: number,
  options: EvenOptions,
  ground: ProjectionTarget,
  check: () => void,
): Mesh {
  const fields = quadFields(
    work,
    step,
    guideDirections(work, options.guides, step),
    check,
  );
  const border = Uint8Array.from(work.bound, (b) => (b && b < 3 ? 1 : 0));
  const positions = fields.o.slice();
  const topology = new Topology(
    work.positions.slice(),
    work.triangles.slice(),
    openBorder(work),
  );
  const weight = new Float64Array(border.length).fill(1);
  const pinned = work.bound.slice();
  const wish = positions;
  const order = topology
    .edges()
    .map(([a, b]) => {
      const [du, dv] = stepsBetween(work, fields, a, b, step);
      const far = Math.hypot(
        ...[0, 1, 2].map((k) => wish[3 * a + k] - wish[3 * b + k]),
      );
      return { a, b, steps: du + dv, far };
    })
    .filter(({ steps }) => steps === 0)
    .sort((x, y) => x.far - y.far || x.a - y.a || x.b - y.b);
  check();
  const standsFor = new Int32Array(weight.length).map((_, v) => v);
  const find = (v: number) => {
    while (standsFor[v] !== v) v = standsFor[v] = standsFor[standsFor[v]];
    return v;
  };
  for (let round = 0; round < 3; round++)
    for (const edge of order) {
      let a = find(edge.a);
      let b = find(edge.b);
      if (a === b) continue;
      if (pinned[b] === 2 || (pinned[b] === 1 && pinned[a] !== 2))
        [a, b] = [b, a];
      if (pinned[a] === 2 && pinned[b] === 2) continue;
      const total = weight[a] + weight[b];
      const place = [0, 1, 2].map((k) =>
        pinned[a] > pinned[b] && pinned[a] < 3
          ? wish[3 * a + k]
          : (weight[a] * wish[3 * a + k] + weight[b] * wish[3 * b + k]) / total,
      );
      if (!topology.collapse(a, b, place)) continue;
      standsFor[b] = a;
      weight[a] = total;
      for (let k = 0; k < 3; k++) wish[3 * a + k] = place[k];
    }
  settle(topology, wish);
  tidy(topology, work, pinned, step, check);
  const paired = pairQuads(compact(topology), {
    bend: 50,
    squareness: 0.02,
    reach: 40,
  });
  const leave = options.pure ? 0 : Math.floor(SINGLES * faceCount(paired));
  const mesh = mergeSingles(paired, options.pure ? 10_000 : 8, leave);
  return squareUp(mesh, ground, 10, options.grading > 1);
}

const openBorder = (work: WorkMesh) => {
  const uses = new Map<number, number>();
  const count = work.positions.length / 3;
  const { triangles } = work;
  for (let c = 0; c < triangles.length; c++) {
    const a = triangles[c];
    const b = triangles[c % 3 === 2 ? c - 2 : c + 1];
    const key = Math.min(a, b) * count + Math.max(a, b);
    uses.set(key, (uses.get(key) ?? 0) + 1);
  }
  const border = new Uint8Array(count);
  for (const [key, used] of uses)
    if (used === 1) border[Math.floor(key / count)] = border[key % count] = 1;
  return border;
};

/** Moves what no collapse moved to its lattice point, where no face turns over. */
function settle(topology: Topology, wish: Float64Array): void {
  for (let v = 0; v < wish.length / 3; v++) {
    const faces = topology.facesAt(v);
    if (!faces.length) continue;
    const place = [wish[3 * v], wish[3 * v + 1], wish[3 * v + 2]];
    if (faces.some((t) => topology.turns(t, v, place))) continue;
    for (let k = 0; k < 3; k++) topology.positions[3 * v + k] = place[k];
  }
}

/** Collapses what is far too short, and flips edges towards right angles. */
function tidy(
  topology: Topology,
  work: WorkMesh,
  pinned: Uint8Array,
  step: number,
  check: () => void,
): void {
  const { positions: p } = topology;
  const length = (a: number, b: number) =>
    Math.hypot(
      p[3 * a] - p[3 * b],
      p[3 * a + 1] - p[3 * b + 1],
      p[3 * a + 2] - p[3 * b + 2],
    );
  const wantedAlong = (u: number, v: number, far: number) => {
    const [x, y, z] = [0, 1, 2].map((k) => (p[3 * v + k] - p[3 * u + k]) / far);
    return (
      0.5 *
      (lengthAlong(work.metric, u, x, y, z) +
        lengthAlong(work.metric, v, x, y, z))
    );
  };
  for (let round = 0; round < 4; round++) {
    check();
    let changed = 0;
    for (const [u, v] of topology.edges()) {
      const far = length(u, v);
      const own = far && step * wantedAlong(u, v, far);
      if (far > 0.45 * own) continue;
      let [a, b] = [u, v];
      if (pinned[b] === 2 || (pinned[b] === 1 && pinned[a] !== 2))
        [a, b] = [b, a];
      if (
        pinned[a] &&
        pinned[b] &&
        pinned[a] < 3 &&
        pinned[b] < 3 &&
        length(a, b) > 0.2 * own
      )
        continue;
      const place = [0, 1, 2].map((k) =>
        pinned[a] && pinned[a] < 3
          ? p[3 * a + k]
          : (p[3 * a + k] + p[3 * b + k]) / 2,
      );
      if (topology.collapse(a, b, place)) changed++;
    }
    for (const [a, b] of topology.edges()) {
      const pair = topology.pair(a, b);
      if (!pair || crease(topology, pair.s, pair.t)) continue;
      const { c, d } = pair;
      const now = Math.min(worstAngle(p, a, b, c), worstAngle(p, b, a, d));
      const then = Math.min(worstAngle(p, a, d, c), worstAngle(p, d, b, c));
      if (then > now + 0.05 && topology.flip(a, b)) changed++;
    }
    if (!changed) break;
  }
}

function crease(topology: Topology, s: number, t: number): boolean {
  const n = topology.normal(s);
  const m = topology.normal(t);
  const size = Math.hypot(...n) * Math.hypot(...m);
  return n[0] * m[0] + n[1] * m[1] + n[2] * m[2] < 0.8 * size;
}

/** The smallest angle of a triangle, radians. */
function worstAngle(p: Float64Array, a: number, b: number, c: number): number {
  const d = (u: number, v: number) =>
    (p[3 * u] - p[3 * v]) ** 2 +
    (p[3 * u + 1] - p[3 * v + 1]) ** 2 +
    (p[3 * u + 2] - p[3 * v + 2]) ** 2;
  const [ab, bc, ca] = [d(a, b), d(b, c), d(c, a)];
  const angle = (x: number, y: number, far: number) =>
    Math.acos(
      Math.max(
        -1,
        Math.min(1, (x + y - far) / (2 * Math.sqrt(x * y) || 1e-300)),
      ),
    );
  return Math.min(angle(ab, ca, bc), angle(ab, bc, ca), angle(bc, ca, ab));
}

function compact(topology: Topology): Mesh {
  const name = new Int32Array(topology.positions.length / 3).fill(-1);
  const points: number[] = [];
  const corners: number[] = [];
  topology.alive.forEach((alive, t) => {
    if (!alive) return;
    for (let k = 0; k < 3; k++) {
      const v = topology.triangles[3 * t + k];
      if (name[v] < 0) {
        name[v] = points.length / 3;
        for (let i = 0; i < 3; i++) points.push(topology.positions[3 * v + i]);
      }
      corners.push(name[v]);
    }
  });
  return meshFromTriangles(
    Float32Array.from(points),
    Uint32Array.from(corners),
  );
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
