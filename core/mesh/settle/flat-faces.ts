import { triangleArea } from "../../space/sample";
import type { Mesh } from "../mesh";
import { SETTLE_RULES, settleMesh } from "./settle";

/** A triangle has no area where its height is below this share of its longest edge. */
const NO_HEIGHT = 1e-6;

const OTHERS = new Set(
  SETTLE_RULES.map(({ value }) => value).filter((rule) => rule !== "noArea"),
);

/** A mesh of triangles without those of no area, which are dissolved into their neighbours; the same where it has none. */
export function withoutFlatFaces(mesh: Mesh): Mesh {
  return hasFlatFace(mesh) ? settleMesh(mesh, OTHERS).mesh : mesh;
}

function hasFlatFace({ positions: p, corners }: Mesh): boolean {
  const squared = (v: number, w: number) =>
    (p[3 * v] - p[3 * w]) ** 2 +
    (p[3 * v + 1] - p[3 * w + 1]) ** 2 +
    (p[3 * v + 2] - p[3 * w + 2]) ** 2;
  for (let t = 0; t < corners.length / 3; t++) {
    const [a, b, c] = [corners[3 * t], corners[3 * t + 1], corners[3 * t + 2]];
    const longest = Math.max(squared(a, b), squared(b, c), squared(c, a));
    if (!(2 * triangleArea(p, corners, t) > NO_HEIGHT * longest)) return true;
  }
  return false;
}
