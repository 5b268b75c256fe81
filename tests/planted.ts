import { lathe, Builder } from "../demo/shapes";
import type { Mesh } from "../core/mesh/mesh";
import { faceCount } from "../core/mesh/mesh";
import { createMesh, reverseFaces } from "../core/mesh/change-faces";
import { hardAbove } from "../core/mesh/hard-angle";
import { buildEdges } from "../core/mesh/edges";
import { cornerNormals, faceNormals, nextCorners } from "../core/mesh/normals";
import {
  multiply,
  rotation,
  transformMesh,
  translation,
} from "../core/mesh/transform";
import { seededRandom } from "../core/base/random";
import { cube, sphere, torus } from "./shapes";

/** A closed turned body of quads and fans. */
function turned(profile: [number, number][], around: number): Mesh {
  const builder = new Builder();
  lathe(builder, profile, around);
  return builder.mesh("surface");
}

/** A prism with n sides: n-gon caps, quad sides. */
export function prism(n: number, star = 0): Mesh {
  const points: number[] = [];
  for (const y of [0, 1.4])
    for (let i = 0; i < n; i++) {
      const a = (2 * Math.PI * i) / n;
      const r = i % 2 ? 1 - star : 1;
      points.push(r * Math.cos(a), y, -r * Math.sin(a));
    }
  const corners: number[] = [];
  const starts = [0];
  const face = (...list: number[]) => {
    corners.push(...list);
    starts.push(corners.length);
  };
  face(...Array.from({ length: n }, (_, i) => n - 1 - i));
  face(...Array.from({ length: n }, (_, i) => n + i));
  for (let i = 0; i < n; i++) {
    const j = (i + 1) % n;
    face(i, j, n + j, n + i);
  }
  return createMesh({
    positions: new Float32Array(points),
    corners: new Uint32Array(corners),
    faceStarts: new Uint32Array(starts),
  });
}

/** Thirty closed, sound meshes of different kinds: flat-sided, round, knobbly, with holes, in odd places. */
export function thirtyMeshes(): { name: string; mesh: Mesh }[] {
  const plain: [string, Mesh][] = [
    ["cube", cube()],
    ...[3, 4, 5, 6, 8, 12, 24].map((n): [string, Mesh] => [
      `prism ${n}`,
      prism(n),
    ]),
    ...[8, 10, 16].map((n): [string, Mesh] => [`star ${n}`, prism(n, 0.45)]),
    ...[
      [6, 8],
      [12, 16],
      [24, 32],
      [48, 64],
    ].map(([r, a]): [string, Mesh] => [`sphere ${r}`, sphere(r, a)]),
    ...[1, 2, 3, 4, 5].map((k): [string, Mesh] => [
      `knobbly ${k}`,
      sphere(
        20 + k,
        30,
        1,
        (a, t) => 0.08 * k * Math.sin(k * a) * Math.cos(t) ** 2,
      ),
    ]),
    ...[
      [12, 8],
      [24, 12],
      [40, 20],
    ].map(([a, t]): [string, Mesh] => [`ring ${a}`, torus(a, t)]),
    ...[9, 16, 32, 33].map((n): [string, Mesh] => [
      `pot ${n}`,
      turned(
        [
          [0, 0],
          [0.6, 0],
          [0.9, 0.4],
          [0.7, 1],
          [0.6, 1],
          [0.75, 0.45],
          [0.5, 0.15],
          [0, 0.15],
        ],
        n,
      ),
    ]),
    ...[10, 20, 31].map((n): [string, Mesh] => [
      `spindle ${n}`,
      turned(
        [
          [0, 0],
          [0.2, 0.1],
          [0.15, 0.8],
          [0.4, 1],
          [0.3, 1.4],
          [0, 1.6],
        ],
        n,
      ),
    ]),
  ];
  return plain.map(([name, mesh], i) => {
    const random = seededRandom(i + 1);
    const turn = rotation([0.6, 0.8, 0], 6 * random());
    const move = translation(3 * random(), 3 * random(), -2 * random());
    return { name, mesh: transformMesh(mesh, multiply(move, turn)) };
  });
}

/** One mesh of other faces, given as lists of vertices. */
function rebuilt(mesh: Mesh, faces: number[][], points: number[] = []): Mesh {
  const starts = [0];
  for (const face of faces) starts.push(starts.at(-1)! + face.length);
  return createMesh({
    positions: new Float32Array([...mesh.positions, ...points]),
    corners: new Uint32Array(faces.flat()),
    faceStarts: new Uint32Array(starts),
  });
}

const facesOf = (mesh: Mesh) =>
  Array.from({ length: faceCount(mesh) }, (_, f) => [
    ...mesh.corners.subarray(mesh.faceStarts[f], mesh.faceStarts[f + 1]),
  ]);

const at = (mesh: Mesh, v: number) => [
  ...mesh.positions.subarray(3 * v, 3 * v + 3),
];

const middleOf = (mesh: Mesh, list: readonly number[]) =>
  [0, 1, 2].map(
    (k) =>
      list.reduce((sum, v) => sum + mesh.positions[3 * v + k], 0) / list.length,
  );

/** Every defect, planted once into a sound closed mesh; `finds` is the survey's name for it. */
export const PLANTS: {
  name: string;
  finds: string;
  /** Where the count is known. */
  count?: number;
  /** Whether mending gives a closed mesh again. */
  closes: boolean;
  plant(mesh: Mesh, random: () => number): Mesh;
}[] = [
  {
    name: "a vertex doubled",
    finds: "coincident",
    count: 1,
    closes: true,
    plant(mesh, random) {
      const faces = facesOf(mesh);
      const f = Math.floor(random() * faces.length);
      const v = faces[f][0];
      faces[f][0] = mesh.positions.length / 3;
      return rebuilt(mesh, faces, at(mesh, v));
    },
  },
  {
    name: "a vertex doubled a hair away",
    finds: "coincident",
    count: 1,
    closes: true,
    plant(mesh, random) {
      const faces = facesOf(mesh);
      const f = Math.floor(random() * faces.length);
      const [x, y, z] = at(mesh, faces[f][0]);
      faces[f][0] = mesh.positions.length / 3;
      return rebuilt(mesh, faces, [x + 3e-6, y, z - 3e-6]);
    },
  },
  {
    name: "a face missing",
    finds: "borders",
    closes: true,
    plant(mesh, random) {
      const faces = facesOf(mesh);
      faces.splice(Math.floor(random() * faces.length), 1);
      return rebuilt(mesh, faces);
    },
  },
  {
    name: "a fin on an edge",
    finds: "nonManifoldEdges",
    count: 1,
    closes: true,
    plant(mesh, random) {
      const faces = facesOf(mesh);
      const f = Math.floor(random() * faces.length);
      const n = faceNormals(mesh);
      const tip = middleOf(mesh, faces[f].slice(0, 2)).map(
        (x, k) => x + 0.1 * n[3 * f + k],
      );
      faces.push([faces[f][0], faces[f][1], mesh.positions.length / 3]);
      return rebuilt(mesh, faces, tip);
    },
  },
  {
    name: "two bodies sharing a vertex",
    finds: "nonManifoldVertices",
    count: 1,
    closes: true,
    plant(mesh, random) {
      const faces = facesOf(mesh);
      const v = faces[Math.floor(random() * faces.length)][0];
      const n = cornerNormals(mesh);
      const corner = mesh.corners.indexOf(v);
      const [x, y, z] = at(mesh, v);
      const out = [0, 1, 2].map((k) => n[3 * corner + k]);
      const far = (a: number, b: number, c: number) => [
        x + 0.2 * out[0] + a,
        y + 0.2 * out[1] + b,
        z + 0.2 * out[2] + c,
      ];
      const base = mesh.positions.length / 3;
      const points = [
        ...far(0.03, 0, 0),
        ...far(-0.01, 0.03, 0),
        ...far(-0.01, -0.01, 0.03),
      ];
      const [a, b, c] = [base, base + 1, base + 2];
      const p = [
        at(mesh, v),
        points.slice(0, 3),
        points.slice(3, 6),
        points.slice(6),
      ];
      const [u, w, q] = [1, 2, 3].map((k) =>
        p[k].map((value, i) => value - p[0][i]),
      );
      const volume =
        u[0] * (w[1] * q[2] - w[2] * q[1]) +
        u[1] * (w[2] * q[0] - w[0] * q[2]) +
        u[2] * (w[0] * q[1] - w[1] * q[0]);
      const tetra = [
        [a, b, c],
        [v, b, a],
        [v, c, b],
        [v, a, c],
      ];
      for (const face of tetra) faces.push(volume > 0 ? face : face.reverse());
      return rebuilt(mesh, faces, points);
    },
  },
  {
    name: "a face turned over",
    finds: "winding",
    count: 1,
    closes: true,
    plant(mesh, random) {
      const faces = facesOf(mesh);
      faces[Math.floor(random() * faces.length)].reverse();
      return rebuilt(mesh, faces);
    },
  },
  {
    name: "a shell inside out",
    finds: "winding",
    closes: true,
    plant: (mesh) =>
      reverseFaces(mesh, new Uint8Array(faceCount(mesh)).fill(1)),
  },
  {
    name: "a face without area",
    finds: "zeroArea",
    count: 1,
    closes: true,
    plant(mesh, random) {
      const faces = facesOf(mesh);
      const edges = buildEdges(mesh);
      const next = nextCorners(mesh.faceStarts, mesh.corners.length);
      const e = Math.floor(random() * edges.count);
      const c = edges.second[e];
      const [a, b] = [mesh.corners[c], mesh.corners[next[c]]];
      const f = mesh.faceStarts.findLastIndex((start) => start <= c);
      const middle = mesh.positions.length / 3;
      faces[f].splice(faces[f].indexOf(a) + 1, 0, middle);
      faces.push([a, b, middle]);
      return rebuilt(mesh, faces, middleOf(mesh, [a, b]));
    },
  },
  {
    name: "a loose vertex",
    finds: "loose",
    count: 1,
    closes: true,
    plant: (mesh, random) =>
      rebuilt(mesh, facesOf(mesh), [random(), random(), 2]),
  },
  {
    name: "a face doubled",
    finds: "duplicateFaces",
    count: 1,
    closes: true,
    plant(mesh, random) {
      const faces = facesOf(mesh);
      return rebuilt(mesh, [
        ...faces,
        [...faces[Math.floor(random() * faces.length)]],
      ]);
    },
  },
  {
    name: "a vertex pulled through the other side",
    finds: "selfIntersections",
    closes: true,
    plant(mesh, random) {
      const positions = mesh.positions.slice();
      const faces = facesOf(mesh);
      const v = faces[Math.floor(random() * faces.length)][0];
      const from = at(mesh, v);
      const distance = (list: number[]) =>
        Math.hypot(...middleOf(mesh, list).map((x, k) => x - from[k]));
      const far = faces.reduce((best, face) =>
        distance(face) > distance(best) ? face : best,
      );
      middleOf(mesh, far).forEach((x, k) => {
        positions[3 * v + k] = x + 0.35 * (x - from[k]);
      });
      return { ...mesh, positions };
    },
  },
  {
    name: "a stored normal the wrong way",
    finds: "storedNormals",
    count: 1,
    closes: true,
    plant(mesh, random) {
      const normals = cornerNormals({
        ...mesh,
        hard: hardAbove(mesh, 40).hard,
      });
      const f = Math.floor(random() * faceCount(mesh));
      for (let i = 3 * mesh.faceStarts[f]; i < 3 * mesh.faceStarts[f + 1]; i++)
        normals[i] = -normals[i];
      return { ...mesh, normals };
    },
  },
];
