import type { Asset, Part } from "../core/asset/asset";
import { createAsset, createPart } from "../core/asset/asset";
import type { Mesh } from "../core/mesh/mesh";
import { joinMeshes } from "../core/mesh/change-faces";
import type { Matrix } from "../core/mesh/transform";
import {
  IDENTITY,
  multiply,
  rotation,
  transformMesh,
  translation,
} from "../core/mesh/transform";
import { plank } from "./plank";
import { Builder, dome } from "./shapes";

const LENGTH = 0.62;
const WIDTH = 0.4;
const HEIGHT = 0.24;

const mirrorZ: Matrix = IDENTITY.map((x, i) => (i === 10 ? -1 : x));
const mirrorX: Matrix = IDENTITY.map((x, i) => (i === 0 ? -1 : x));

/** The fish crate of Sorrel Quay: mirrored and repeated slats about four posts, nails floating on the wood. */
export function fishCrate(): Asset {
  const side = sideSlat();
  const end = endSlat();
  const floor = floorSlat();
  const post = cornerPost();
  const heights = [0.045, 0.115, 0.185];
  const sides = heights.flatMap((y, k) => {
    const at = translation(k === 1 ? 0.004 : 0, y, WIDTH / 2 - 0.008);
    const placed = transformMesh(side, at);
    return [placed, transformMesh(placed, mirrorZ)];
  });
  const ends = heights.flatMap((y) => {
    const at = multiply(
      translation(LENGTH / 2 - 0.008, y, 0),
      rotation([0, 1, 0], Math.PI / 2),
    );
    const placed = transformMesh(end, at);
    return [placed, transformMesh(placed, mirrorX)];
  });
  const floors = Array.from({ length: 5 }, (_, i) =>
    transformMesh(floor, translation(0, 0.012, -0.15 + 0.075 * i)),
  );
  const corner = transformMesh(
    post,
    translation(LENGTH / 2 - 0.036, HEIGHT / 2, WIDTH / 2 - 0.036),
  );
  const posts = [
    corner,
    transformMesh(corner, mirrorX),
    transformMesh(corner, mirrorZ),
    transformMesh(corner, multiply(mirrorX, mirrorZ)),
  ];
  const parts: Record<string, Mesh> = {
    "side slats": joinMeshes(sides),
    "end slats": joinMeshes(ends),
    "floor slats": joinMeshes(floors),
    posts: joinMeshes(posts),
    nails: nails(heights),
    "rope handle": handle(),
  };
  return createAsset(
    "Fish crate",
    Object.entries(parts).map(([name, source], i): Part =>
      createPart(name, i, { source }),
    ),
  );
}

/** Worn wood: a slight bow, grain along the board, a gnawed corner so that no board is its own mirror image. */
function board(
  size: readonly [number, number, number],
  seed: number,
  along: number,
): Mesh {
  const builder = new Builder();
  const half = size[0] / 2;
  plank(builder, size, 0.0035, along, (x, y, z) => {
    const t = x / half;
    const grain =
      0.0007 * Math.sin(140 * y + 5 * Math.sin(9 * t + seed)) +
      0.0004 * Math.sin(310 * y + 7 * t + 2 * seed);
    const wear = 0.006 * Math.max(0, t - 0.8) * Math.sin(40 * t + seed);
    return [
      x,
      y + 0.004 * (1 - t * t) * Math.sin(seed) - wear * Math.sign(y),
      z + 0.0005 * Math.cos(2.2 * t + seed) + (z > 0 ? grain : -grain * 0.4),
    ];
  });
  return builder.mesh("wood");
}

const sideSlat = () => board([LENGTH, 0.058, 0.012], 0.7, 110);
const endSlat = () => board([WIDTH - 0.03, 0.058, 0.012], 2.1, 70);
const floorSlat = () => board([LENGTH - 0.03, 0.062, 0.01], 3.9, 110);

function cornerPost(): Mesh {
  const upright = board([HEIGHT, 0.036, 0.036], 5.2, 50);
  return transformMesh(upright, rotation([0, 0, 1], Math.PI / 2));
}

/** Domed nail heads that float a hair above the slats. */
function nails(heights: readonly number[]): Mesh {
  const builder = new Builder();
  const x = LENGTH / 2 - 0.036;
  for (const y of heights)
    for (const sx of [-1, 1])
      for (const dy of [-0.014, 0.014])
        for (const sz of [-1, 1])
          dome(
            builder,
            [sx * x, y + dy, sz * (WIDTH / 2 - 0.0007)],
            [0, 0, sz],
            0.0042,
            0.0016,
            14,
            4,
          );
  return builder.mesh("iron");
}

/** A loop of rope through both ends of one side. */
function handle(): Mesh {
  const builder = new Builder();
  const rings: number[] = [];
  const steps = 150;
  const around = 22;
  for (let k = 0; k <= steps; k++) {
    const t = k / steps;
    const a = Math.PI * t;
    const centre = [
      0.085 * Math.cos(a),
      HEIGHT - 0.03 + 0.075 * Math.sin(a) ** 0.8,
      WIDTH / 2 + 0.012,
    ];
    rings.push(builder.points.length / 3);
    const outward = [Math.cos(a), Math.sin(a), 0];
    for (let i = 0; i < around; i++) {
      const b = (2 * Math.PI * i) / around;
      // Three strands laid round each other.
      const r = 0.0062 + 0.0012 * Math.cos(3 * b + 34 * a);
      builder.vertex(
        centre[0] + r * Math.cos(b) * outward[0],
        centre[1] + r * Math.cos(b) * outward[1],
        centre[2] + r * Math.sin(b),
      );
    }
  }
  for (let k = 0; k + 1 < rings.length; k++)
    builder.band(rings[k + 1], rings[k], around);
  const tip = (ring: number, way: number) => {
    const at = [0, 0, 0];
    for (let i = 0; i < around; i++)
      for (let k = 0; k < 3; k++)
        at[k] += builder.points[3 * (ring + i) + k] / around;
    return builder.vertex(at[0], at[1] + way * 0.002, at[2]);
  };
  builder.fan(rings[0], around, tip(rings[0], -1), true);
  builder.fan(rings[steps], around, tip(rings[steps], -1), false);
  return builder.mesh("hemp");
}
