import { joined, moved, sphere } from "../tests/shapes";
import { reduceTogether } from "../core/decimate/reduce-together";
import type { Mesh } from "../core/mesh/mesh";
import { vertexCount } from "../core/mesh/mesh";
import { buildEdges } from "../core/mesh/edges";
import { skinOver } from "../core/remesh/skin/skin-over";
import { plainContext } from "../core/base/context";
import { seededRandom } from "../core/base/random";

/** Generated bodies that unwrapping is measured on: closed, organic, with limbs or a handle. */

type Point = [number, number, number];

/** A rod with round ends, thick at both ends as said. */
function limb(from: Point, to: Point, r0: number, r1: number): Mesh {
  const beads = 14;
  return joined(
    ...Array.from({ length: beads + 1 }, (_, i) => {
      const t = i / beads;
      const bead = sphere(10, 14, r0 + (r1 - r0) * t);
      return moved(
        bead,
        from[0] + (to[0] - from[0]) * t,
        from[1] + (to[1] - from[1]) * t,
        from[2] + (to[2] - from[2]) * t,
      );
    }),
  );
}

/** Points move to the middle of their neighbours. */
function smoothed(mesh: Mesh, rounds: number): Mesh {
  const edges = buildEdges(mesh);
  let positions = mesh.positions;
  for (let round = 0; round < rounds; round++) {
    const sum = new Float64Array(positions.length);
    const count = new Uint32Array(vertexCount(mesh));
    for (let e = 0; e < edges.count; e++) {
      const a = edges.vertices[2 * e];
      const b = edges.vertices[2 * e + 1];
      for (let k = 0; k < 3; k++) {
        sum[3 * a + k] += positions[3 * b + k];
        sum[3 * b + k] += positions[3 * a + k];
      }
      count[a]++;
      count[b]++;
    }
    positions = positions.map(
      (x, i) => 0.4 * x + (0.6 * sum[i]) / (count[(i / 3) | 0] || 1),
    );
  }
  return { ...mesh, positions };
}

function body(pieces: readonly Mesh[], triangles: number, cells = 110): Mesh {
  const skin = smoothed(
    skinOver(pieces, cells, () => {}),
    6,
  );
  return reduceTogether([skin], triangles, plainContext())[0]!;
}

/** A standing body of torso, head, two arms and two legs, 1.8 m high. */
export const limbedBody = (triangles = 5000): Mesh =>
  body(
    [
      limb([0, 0.95, 0], [0, 1.4, 0], 0.17, 0.19),
      limb([0, 1.4, 0], [0, 1.62, 0], 0.08, 0.08),
      moved(sphere(16, 20, 0.13), 0, 1.68, 0.02),
      ...[-1, 1].flatMap((side) => [
        limb([0.16 * side, 1.42, 0], [0.42 * side, 1.15, 0], 0.075, 0.06),
        limb([0.42 * side, 1.15, 0], [0.6 * side, 0.9, 0.08], 0.06, 0.045),
        limb([0.1 * side, 0.92, 0], [0.14 * side, 0.5, 0.02], 0.1, 0.075),
        limb([0.14 * side, 0.5, 0.02], [0.16 * side, 0.06, 0], 0.075, 0.05),
        limb([0.16 * side, 0.05, 0], [0.17 * side, 0.04, 0.17], 0.05, 0.04),
      ]),
    ],
    triangles,
  );

/** A beast on four legs with a neck, a head and a tail, 1.1 m long, its surface as noisy as a scan's. */
export function tailedBody(triangles = 20_000): Mesh {
  const made = body(
    [
      limb([-0.3, 0.6, 0], [0.3, 0.62, 0], 0.15, 0.17),
      limb([0.3, 0.65, 0], [0.5, 0.85, 0], 0.1, 0.07),
      limb([0.5, 0.87, 0], [0.65, 0.82, 0], 0.09, 0.06),
      limb([-0.35, 0.65, 0], [-0.75, 0.35, 0.1], 0.06, 0.02),
      ...[-1, 1].flatMap((side) =>
        [-0.28, 0.28].map((x) =>
          limb([x, 0.55, 0.1 * side], [x, 0.05, 0.13 * side], 0.075, 0.05),
        ),
      ),
    ],
    triangles,
  );
  const random = seededRandom(7);
  return {
    ...made,
    positions: made.positions.map((x) => x + 0.002 * (2 * random() - 1)),
  };
}

/** A cup with a handle, one closed piece, 10 cm high. */
export function mug(triangles = 5000): Mesh {
  const ring = (r: number, thick: number, n: number, y: number) =>
    Array.from({ length: n }, (_, i) =>
      moved(
        sphere(8, 10, thick),
        r * Math.cos((2 * Math.PI * i) / n),
        y,
        r * Math.sin((2 * Math.PI * i) / n),
      ),
    );
  const wall = Array.from({ length: 26 }, (_, k) =>
    ring(0.038, 0.004, 90, 0.004 + 0.0036 * k),
  ).flat();
  const floor = Array.from({ length: 13 }, (_, k) =>
    ring(0.003 * k, 0.004, 6 + 7 * k, 0.004),
  ).flat();
  const handle = Array.from({ length: 30 }, (_, i) => {
    const angle = -Math.PI / 2 + (Math.PI * i) / 29;
    return moved(
      sphere(8, 10, 0.006),
      0.038 + 0.028 * Math.cos(angle),
      0.05 + 0.03 * Math.sin(angle),
      0,
    );
  });
  return body([...wall, ...floor, ...handle], triangles, 96);
}

/** A body of a few bulges and limbs, another one for each seed. */
export function organic(seed: number, triangles = 5000): Mesh {
  const random = seededRandom(seed);
  const between = (a: number, b: number) => a + (b - a) * random();
  const pieces = [sphere(20, 26, between(0.25, 0.4))];
  const count = 2 + Math.floor(3 * random());
  for (let i = 0; i < count; i++) {
    const y = between(-0.9, 0.9);
    const a = between(0, 2 * Math.PI);
    const r = Math.sqrt(1 - y * y);
    const length = between(0.5, 1.1);
    pieces.push(
      limb(
        [0, 0, 0],
        [length * r * Math.cos(a), length * y, length * r * Math.sin(a)],
        between(0.12, 0.22),
        between(0.06, 0.16),
      ),
    );
  }
  return body(pieces, triangles);
}
