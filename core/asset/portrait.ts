import type { Asset, Part } from "./asset";
import { hasCard } from "./stand-ins";
import { cornerNormals } from "../mesh/normals";
import { triangulate } from "../mesh/triangulate";
import { boundsOf } from "../space/bounds";
import { buildBvh } from "../space/bvh";
import { RayScene, widen } from "../space/ray-scene";

/** Clay of source meshes and bone of game meshes; see docs/architecture.md on the look. */
const CLAY = [0xcd, 0xbf, 0xae];
const BONE = [0xe6, 0xe0, 0xd2];

/** What is seen of a part: a card is a board without its mask, so its source stands for it. */
const shownOf = (part: Part) =>
  hasCard(part) && part.source ? part.source : (part.game ?? part.source);

/**
 * A picture of an asset by casting one ray a pixel, lit from the upper left over a soft ground, for lists.
 * In one piece: the loop over the pixels allocates nothing and shares its scratch.
 * @returns RGB, 3 × width × height, or null for an asset without meshes
 */
export function portrait(
  asset: Asset,
  width: number,
  height: number,
): Uint8Array | null {
  const meshes = asset.parts.flatMap((part) =>
    shownOf(part)
      ? [{ mesh: shownOf(part)!, tint: part.game ? BONE : CLAY }]
      : [],
  );
  if (!meshes.length) return null;
  const splits = meshes.map(({ mesh }) => triangulate(mesh));
  const count = splits.reduce((sum, split) => sum + split.faces.length, 0);
  const positions = new Float32Array(9 * count);
  const normals = new Float32Array(9 * count);
  const tints = new Uint8Array(count);
  let at = 0;
  meshes.forEach(({ mesh, tint }, m) => {
    const shading = mesh.normals ?? cornerNormals(mesh);
    const { vertices, corners, faces } = splits[m];
    for (let i = 0; i < vertices.length; i++)
      for (let k = 0; k < 3; k++) {
        positions[9 * at + 3 * i + k] = mesh.positions[3 * vertices[i] + k];
        normals[9 * at + 3 * i + k] = shading[3 * corners[i] + k];
      }
    tints.fill(tint === BONE ? 1 : 0, at, at + faces.length);
    at += faces.length;
  });
  const scene = new RayScene([
    widen(
      buildBvh(
        positions,
        new Uint32Array(3 * count).map((_, i) => i),
      ),
    ),
  ]);
  const { min, max } = boundsOf(positions);
  const middle = min.map((low, k) => (low + max[k]) / 2);
  const radius =
    Math.hypot(max[0] - min[0], max[1] - min[1], max[2] - min[2]) / 2 || 1;
  const back = [0.52, 0.36, 0.775];
  const right = [0.8303, 0, -0.5571];
  const up = [
    back[1] * right[2] - back[2] * right[1],
    back[2] * right[0] - back[0] * right[2],
    back[0] * right[1] - back[1] * right[0],
  ];
  const pixels = new Uint8Array(3 * width * height);
  let across = 0;
  let high = 0;
  for (let i = 0; i < positions.length; i += 3) {
    const d = [0, 1, 2].map((k) => positions[i + k] - middle[k]);
    across = Math.max(
      across,
      Math.abs(d[0] * right[0] + d[1] * right[1] + d[2] * right[2]),
    );
    high = Math.max(high, Math.abs(d[0] * up[0] + d[1] * up[1] + d[2] * up[2]));
  }
  const scale = 2.3 * Math.max(across / width, high / height);
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) {
      const sum = [0, 0, 0];
      for (let s = 0; s < 4; s++) {
        const u = (x + 0.25 + 0.5 * (s & 1) - width / 2) * scale;
        const v = (height / 2 - y - 0.25 - 0.5 * (s >> 1)) * scale;
        const o = middle.map(
          (c, k) => c + u * right[k] + v * up[k] + 2 * radius * back[k],
        );
        const hit = scene.first(
          0,
          o[0],
          o[1],
          o[2],
          -back[0],
          -back[1],
          -back[2],
          0,
          4 * radius,
        );
        const fog = 1 - (0.16 * y) / height;
        if (hit < 0) {
          sum[0] += 0xd2 * fog;
          sum[1] += 0xd9 * fog;
          sum[2] += 0xdc * fog;
          continue;
        }
        const n = [0, 1, 2].map(
          (k) =>
            (1 - scene.u - scene.v) * normals[9 * hit + k] +
            scene.u * normals[9 * hit + 3 + k] +
            scene.v * normals[9 * hit + 6 + k],
        );
        const length = Math.hypot(n[0], n[1], n[2]) || 1;
        const key = Math.max(
          0,
          (-0.35 * n[0] + 0.75 * n[1] + 0.56 * n[2]) / length,
        );
        const light =
          0.42 +
          0.5 * key +
          0.12 * Math.max(0, n[1] / length) +
          0.06 * Math.max(0, n[0] / length);
        const tint = tints[hit] ? BONE : CLAY;
        for (let k = 0; k < 3; k++) sum[k] += Math.min(255, tint[k] * light);
      }
      for (let k = 0; k < 3; k++)
        pixels[3 * (y * width + x) + k] = Math.round(sum[k] / 4);
    }
  return pixels;
}
