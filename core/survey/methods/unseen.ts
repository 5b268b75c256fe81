import type { Mesh } from "../../mesh/mesh";
import { buildEdges } from "../../mesh/edges";
import { faceCount, faceOfCorners } from "../../mesh/mesh";
import { faceNormals } from "../../mesh/normals";
import type { Triangulation } from "../../mesh/triangulate";
import { triangulate } from "../../mesh/triangulate";
import type { Context } from "../../base/context";
import { boundsOf, diagonalOf } from "../../space/bounds";
import { buildBvh } from "../../space/bvh";
import { seededRandom } from "../../base/random";
import type { WideBvh } from "../../space/ray-scene";
import { RayScene, widen } from "../../space/ray-scene";
import { triangleArea } from "../../space/sample";
import { dot, flatNormal, pointAt, unit } from "../../space/vector";

/** From where an asset can be looked at. */
export interface Outside {
  kind: "all round" | "on a floor" | "against a wall" | "from a path";
  /** Points of the path, metres, where there is one. */
  path: readonly [number, number, number][];
}

/** What is looked at: a mesh, and whether it hides what is behind it. */
export interface Looked {
  mesh: Mesh;
  hides: boolean;
}

/** Views a face that nobody sees at once gets before it is given up: points on it × directions. */
const FIRST = { points: 1, ways: 48 };
const SECOND = { points: 4, ways: 64 };
/** And at the rim of what is seen, where a sliver of a face may show. */
const RIM = { points: 24, ways: 160 };
const SLICE = 4096;

interface Shared extends WideBvh {
  /** 9 × triangleCount of all looked-at meshes. */
  xyz: Float32Array;
  diagonal: number;
  /** Lowest and hindmost place, or −Infinity where there is no floor or wall. */
  floor: number;
  wall: number;
  /** 3 × n, empty where looks come from all round. */
  path: Float32Array;
}

interface Slice {
  triangles: Uint32Array;
  /** For each triangle a bit for each corner that a seen face touches: half the points lie near those. */
  touched: Uint8Array;
  points: number;
  ways: number;
  seed: number;
}

/**
 * How much of the outside sees each face: rays from points of the face that get away over rays cast. A face of
 * which a first handful of rays sees nothing gets more; the faces round what is seen get many more, again and
 * again until nothing new comes to light, since that is where slivers show.
 * In one piece: the rounds of looking share what they have found.
 * @returns for each mesh faceCount shares, 0 … 1; 0 only where no ray got away
 */
export async function seenShares(
  looked: readonly Looked[],
  outside: Outside,
  context: Context,
): Promise<Float32Array[]> {
  const splits = looked.map(({ mesh }) => triangulate(mesh));
  const starts = [0];
  for (const { faces } of splits) starts.push(starts.at(-1)! + faces.length);
  const total = starts.at(-1)!;
  const xyz = new Float32Array(9 * total);
  looked.forEach(({ mesh }, m) => {
    const { vertices } = splits[m];
    for (let i = 0; i < vertices.length; i++)
      for (let k = 0; k < 3; k++)
        xyz[9 * starts[m] + 3 * i + k] = mesh.positions[3 * vertices[i] + k];
  });
  const shared = share(xyz, hidersOf(looked, starts), outside);
  const seen = new Uint32Array(total);
  const cast = new Uint32Array(total);
  let round = 0;
  const run = async (
    triangles: Uint32Array,
    { points, ways }: typeof FIRST,
    from: number,
    to: number,
    rim?: Uint8Array,
  ) => {
    const slices: Slice[] = [];
    round++;
    for (let at = 0; at < triangles.length; at += SLICE)
      slices.push({
        triangles: triangles.slice(at, at + SLICE),
        touched: Uint8Array.from(
          triangles.subarray(at, at + SLICE),
          (t) => rim?.[t] ?? 0,
        ),
        points,
        ways,
        seed: round,
      });
    const results = await context.workers.run<Slice, Uint32Array>(
      "survey/unseen",
      shared,
      slices,
      (done) => {
        context.check();
        context.progress(
          from + ((to - from) * done) / slices.length,
          "looking from outside",
        );
      },
    );
    results.forEach((hits, s) =>
      slices[s].triangles.forEach((t, i) => {
        seen[t] += hits[2 * i];
        cast[t] += hits[2 * i + 1];
      }),
    );
  };
  const unseen = (among: (t: number) => boolean = () => true) => {
    const list: number[] = [];
    for (let t = 0; t < total; t++) if (!seen[t] && among(t)) list.push(t);
    return Uint32Array.from(list);
  };
  await run(
    new Uint32Array(total).map((_, t) => t),
    FIRST,
    0.02,
    0.35,
  );
  await run(unseen(), SECOND, 0.35, 0.6);
  const tried = new Uint8Array(total);
  for (let k = 0; k < 60; k++) {
    const rim = rimOf(looked, splits, starts, seen);
    const list = unseen((t) => rim[t] > 0 && !tried[t]);
    if (!list.length) break;
    for (const t of list) tried[t] = 1;
    const share = 0.6 + 0.37 * (1 - 0.8 ** k);
    await run(list, RIM, share, share + 0.02, rim);
  }
  return looked.map(({ mesh }, m) => {
    const shares = new Float32Array(faceCount(mesh));
    splits[m].faces.forEach((f, i) => {
      const t = starts[m] + i;
      if (cast[t]) shares[f] = Math.max(shares[f], seen[t] / cast[t]);
    });
    keepMargin(mesh, shares);
    return shares;
  });
}

/** Faces next to a seen one that go on where it goes (turning by less than 75°) are never given up: rounds of it. */
const MARGIN = 3;
const GOES_ON = Math.cos((75 * Math.PI) / 180);
/** What a face of the margin counts as being seen by. */
const HARDLY = 1e-6;

/**
 * A face that goes on from a seen one may show as a sliver that no ray happened to meet, and a hole right at the
 * rim of what shows would be the first thing seen. Faces round a sharp edge, such as an underside, are not kept.
 */
function keepMargin(mesh: Mesh, shares: Float32Array): void {
  const edges = buildEdges(mesh);
  const face = faceOfCorners(mesh);
  const normals = faceNormals(mesh);
  for (let round = 0; round < MARGIN; round++) {
    const found: number[] = [];
    for (let e = 0; e < edges.count; e++) {
      if (edges.uses[e] !== 2) continue;
      const f = face[edges.first[e]];
      const g = face[edges.second[e]];
      if (shares[f] > 0 === shares[g] > 0) continue;
      if (dot(pointAt(normals, f), pointAt(normals, g)) > GOES_ON)
        found.push(shares[f] > 0 ? g : f);
    }
    for (const f of found) shares[f] = HARDLY;
  }
}

function hidersOf(looked: readonly Looked[], starts: readonly number[]) {
  const hiding: number[] = [];
  looked.forEach(({ hides }, m) => {
    if (hides) for (let t = starts[m]; t < starts[m + 1]; t++) hiding.push(t);
  });
  return hiding;
}

function share(
  xyz: Float32Array,
  hiding: readonly number[],
  outside: Outside,
): Shared {
  const bounds = boundsOf(xyz);
  const indices = new Uint32Array(3 * hiding.length);
  hiding.forEach((t, i) => {
    for (let k = 0; k < 3; k++) indices[3 * i + k] = 3 * t + k;
  });
  const grounded =
    outside.kind === "on a floor" || outside.kind === "against a wall";
  return {
    ...widen(buildBvh(xyz, indices)),
    xyz,
    diagonal: diagonalOf(bounds),
    floor: grounded ? bounds.min[1] : -Infinity,
    wall: outside.kind === "against a wall" ? bounds.min[2] : -Infinity,
    path: new Float32Array(
      outside.kind === "from a path" ? outside.path.flat() : [],
    ),
  };
}

/** For each triangle a bit for each of its corners that a seen face touches. */
function rimOf(
  looked: readonly Looked[],
  splits: readonly Triangulation[],
  starts: readonly number[],
  seen: Uint32Array,
): Uint8Array {
  const rim = new Uint8Array(starts.at(-1)!);
  looked.forEach(({ mesh }, m) => {
    const touched = new Uint8Array(mesh.positions.length / 3);
    const { vertices, faces } = splits[m];
    for (let i = 0; i < vertices.length; i++)
      if (seen[starts[m] + Math.floor(i / 3)]) touched[vertices[i]] = 1;
    for (let t = 0; t < faces.length; t++)
      for (let k = 0; k < 3; k++)
        if (touched[vertices[3 * t + k]]) rim[starts[m] + t] |= 1 << k;
  });
  return rim;
}

const scenes = new WeakMap<object, RayScene>();

/**
 * Kernel: for each triangle of a slice the rays that got away and the rays cast.
 * In one piece: a loop over points that allocates nothing and shares its scratch.
 */
export function lookFrom(shared: Shared, slice: Slice): Uint32Array {
  let scene = scenes.get(shared.nodes);
  if (!scene) {
    scene = new RayScene([shared]);
    scenes.set(shared.nodes, scene);
  }
  const { xyz, diagonal, floor, wall, path } = shared;
  const { triangles, touched, points, ways, seed } = slice;
  const hits = new Uint32Array(2 * triangles.length);
  const lift = 4e-6 * diagonal;
  const around = 4 * diagonal;
  for (let i = 0; i < triangles.length; i++) {
    const t = triangles[i];
    const random = seededRandom(t * 31 + seed);
    const [nx, ny, nz] = unit(flatNormal(xyz, 9 * t));
    let away = 0;
    let cast = 0;
    for (let s = 0; s < points; s++) {
      // The middle first, then anywhere, corners included.
      const r = Math.sqrt(random());
      let v = r * random();
      let u = r - v;
      if (s === 0 && points === 1) u = v = 1 / 3;
      if (touched[i] && s % 2) {
        let corner = Math.floor(3 * random());
        while (!(touched[i] & (1 << corner))) corner = (corner + 1) % 3;
        const off = 0.3 * random() * random();
        const across = random();
        const near = [off * across, off * (1 - across)];
        near.splice(corner, 0, 1 - off);
        u = near[1];
        v = near[2];
      }
      const at = (k: number) => {
        const a = xyz[9 * t + k];
        return a + u * (xyz[9 * t + 3 + k] - a) + v * (xyz[9 * t + 6 + k] - a);
      };
      const x = at(0);
      const y = at(1);
      const z = at(2);
      const turn = 2 * Math.PI * random();
      const shift = random();
      const looks = path.length ? path.length / 3 : ways;
      for (let w = 0; w < looks; w++) {
        let dx: number;
        let dy: number;
        let dz: number;
        let far = 8 * diagonal;
        if (path.length) {
          dx = path[3 * w] - x;
          dy = path[3 * w + 1] - y;
          dz = path[3 * w + 2] - z;
          far = 1;
        } else {
          // A spiral of even density over the sphere (Swinbank and Purser 2006), turned for every point.
          dy = 1 - (2 * (w + shift)) / ways;
          const flat = Math.sqrt(Math.max(0, 1 - dy * dy));
          const angle = 2.399963229728653 * w + turn;
          dx = flat * Math.cos(angle);
          dz = flat * Math.sin(angle);
          if (dy < 0 && (floor - y) / dy < around) continue;
          if (dz < 0 && (wall - z) / dz < around) continue;
        }
        cast++;
        const side = dx * nx + dy * ny + dz * nz < 0 ? -lift : lift;
        if (
          !scene.any(
            0,
            x + side * nx,
            y + side * ny,
            z + side * nz,
            dx,
            dy,
            dz,
            0,
            far,
          )
        )
          away++;
      }
    }
    hits[2 * i] = away;
    hits[2 * i + 1] = cast;
  }
  return hits;
}

/**
 * Shares as they are kept with a mesh: 0 … 255, at least 1 where anything was seen.
 * @param shares faceCount, 0 … 1
 * @returns faceCount, 0 … 255
 */
export const asStream = (shares: Float32Array): Uint8Array =>
  Uint8Array.from(shares, (share) =>
    share > 0 ? Math.max(1, Math.round(255 * Math.min(1, share))) : 0,
  );

/** Faces seen by no more than a share of the views, and what leaving them out would free. */
export function unseenFaces(mesh: Mesh, threshold: number) {
  const seen = mesh.visibility!;
  const limit = Math.floor(255 * threshold);
  const faces: number[] = [];
  for (let f = 0; f < seen.length; f++) if (seen[f] <= limit) faces.push(f);
  const { vertices, faces: ofTriangle } = triangulate(mesh);
  let all = 0;
  let area = 0;
  let triangles = 0;
  for (let t = 0; t < ofTriangle.length; t++) {
    const own = triangleArea(mesh.positions, vertices, t);
    all += own;
    if (seen[ofTriangle[t]] > limit) continue;
    area += own;
    triangles++;
  }
  return { faces, triangles, area, allArea: all };
}
