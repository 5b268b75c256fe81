import { plainContext } from "../core/base/context";
import { farthestOutside } from "../core/collide/methods/containment";
import { volumeOf } from "../core/collide/methods/convex-hull";
import { hullsOf } from "../core/collide/methods/solids";
import { StandOff } from "../core/collide/methods/stand-off";
import { joinMeshes } from "../core/mesh/change-faces";
import type { Mesh } from "../core/mesh/mesh";
import { triangulate } from "../core/mesh/triangulate";
import { boundsOf, diagonalOf } from "../core/space/bounds";
import { DEMO_ASSETS } from "../demo/index";
import { torus } from "../tests/shapes";
import {
  cup,
  flatRing,
  lSolid,
  stairs,
  table,
  tSolid,
  uSolid,
} from "../tests/solids";
import { limbedBody, mug, organic, tailedBody } from "./bodies";
import type { Tell } from "./tell";

/** Solids by name, and how many hulls they may have. */
function solids(): [string, readonly Mesh[], number][] {
  return [
    ["an L", [lSolid()], 2],
    ["a T", [tSolid()], 2],
    ["a U", [uSolid()], 3],
    ["stairs", [stairs()], 5],
    ["a table", [table()], 8],
    ["a cup", [cup()], 16],
    ["a mug with a handle", [mug()], 16],
    ["a flat ring", [flatRing()], 16],
    ["a torus", [torus(48, 16)], 16],
    ["a body with limbs", [limbedBody(20_000)], 8],
    ["a scanned beast with a tail", [tailedBody()], 8],
    ...[1, 2, 3].map((seed): [string, Mesh[], number] => [
      `bulges ${seed}`,
      [organic(seed)],
      8,
    ]),
    ...Object.entries(DEMO_ASSETS).map(
      ([name, make]): [string, Mesh[], number] => [
        name,
        make().parts.flatMap(({ source }) => source ?? []),
        16,
      ],
    ),
  ];
}

/** How well hulls stand for solids: volume against theirs, how far they stand off and are stood out of, seconds. */
export function benchCollide(tell: Tell): void {
  for (const [name, meshes, most] of solids()) {
    const start = performance.now();
    const made = hullsOf(
      meshes,
      { most, tolerance: 0, vertices: 64 },
      plainContext(),
    ).map(({ hull }) => hull);
    const seconds = (performance.now() - start) / 1000;
    const whole = joinMeshes(meshes);
    const { vertices } = triangulate(whole);
    const size = diagonalOf(boundsOf(whole.positions));
    const stand = new StandOff(whole.positions, vertices);
    const volume = made.reduce(
      (sum, { positions, triangles }) => sum + volumeOf(positions, triangles),
      0,
    );
    const off = Math.max(...made.map((hull) => stand.of(hull, 1000))) / size;
    const out = farthestOutside(made, whole.positions) / size;
    tell(`hulls, of ${most} allowed`, name, made.length, `≤ ${most}`);
    tell(
      "volume of hulls / of the solid",
      name,
      volume / volumeOf(whole.positions, vertices),
      "≤ 1.01 exact solids, ≤ 1.2 bodies",
    );
    tell("stands off, share of the diagonal", name, off, "≤ 0.03");
    tell("stands out of them", name, out, "told");
    tell("seconds", name, seconds, "≤ 5 horn");
  }
}
