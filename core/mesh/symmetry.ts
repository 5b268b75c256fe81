import { MissingInputError } from "../base/errors";
import { clipMesh } from "./clip";
import type { Mesh } from "./mesh";
import { joinMeshes } from "./change-faces";
import { mergeVertices } from "./weld";
import type { MirrorPlane } from "./mirror-plane";
import { MirrorTest, planeAcross } from "./mirror-plane";
import type { Matrix } from "./transform";
import { transformMesh } from "./transform";

/** Which plane a result is to be the same on both sides of. */
export type Symmetry = "off" | "find" | "x" | "y" | "z";

export const SYMMETRIES: readonly { value: Symmetry; label: string }[] = [
  { value: "off", label: "none" },
  { value: "find", label: "find the plane" },
  { value: "x", label: "across x = 0" },
  { value: "y", label: "across y = 0" },
  { value: "z", label: "across z = 0" },
];

/** How what comes of a mesh stands on both sides of the plane. */
export interface Sides {
  name: string;
  /** The result is mirrored and welded at the plane. */
  halved: boolean;
  /** The result mirrored is also that of this part. */
  twin: string | null;
}

/** A mesh to be worked on, and how what comes of it stands on both sides of the plane. */
export interface Half extends Sides {
  mesh: Mesh;
}

export interface Halves {
  plane: MirrorPlane | null;
  halves: Half[];
}

/**
 * What is worked on so that the result is exactly symmetric: the half of every part that is its own mirror image,
 * one of two parts that are each other's, and parts that are neither as they are.
 * @param all halves every part that reaches over the plane, whether or not it is symmetric
 * @throws MissingInputError where a plane is to be found and there is none
 */
export function halvesOf(
  parts: readonly { name: string; mesh: Mesh }[],
  symmetry: Symmetry,
  all: boolean,
): Halves {
  const whole = (part: { name: string; mesh: Mesh }): Half => ({
    ...part,
    halved: false,
    twin: null,
  });
  if (symmetry === "off" || !parts.length)
    return { plane: null, halves: parts.map(whole) };
  const plane =
    symmetry === "find"
      ? new MirrorTest(parts.map((part) => part.mesh)).findPlane()
      : planeAcross(symmetry, 0);
  if (!plane)
    throw new MissingInputError(
      "no mirror plane was found: choose an axis to work on one half and mirror it",
    );
  const halves: Half[] = [];
  const done = new Set<string>();
  for (const part of parts) {
    if (done.has(part.name)) continue;
    done.add(part.name);
    const half = clipMesh(part.mesh, { normal: plane.normal, offset: plane.d });
    const reaches =
      half !== part.mesh &&
      half.corners.length > 0 &&
      straddles(part.mesh, plane);
    if (reaches && (all || new MirrorTest([part.mesh]).isMirrored(plane))) {
      halves.push({ name: part.name, mesh: half, halved: true, twin: null });
      continue;
    }
    const twin = reaches
      ? undefined
      : parts.find(
          (other) =>
            !done.has(other.name) &&
            other.mesh.corners.length === part.mesh.corners.length &&
            new MirrorTest([part.mesh, other.mesh]).isMirrored(plane),
        );
    if (twin) done.add(twin.name);
    halves.push({ ...whole(part), twin: twin?.name ?? null });
  }
  return { plane, halves };
}

function straddles(mesh: Mesh, { normal, d }: MirrorPlane): boolean {
  let low = Infinity;
  let high = -Infinity;
  const p = mesh.positions;
  for (let i = 0; i < p.length; i += 3) {
    const off =
      normal[0] * p[i] + normal[1] * p[i + 1] + normal[2] * p[i + 2] - d;
    if (off < low) low = off;
    if (off > high) high = off;
  }
  const slack = 1e-4 * (high - low);
  return low < -slack && high > slack;
}

/** The reflection in a plane. */
export function reflection({ normal: [x, y, z], d }: MirrorPlane): Matrix {
  return [
    1 - 2 * x * x,
    -2 * x * y,
    -2 * x * z,
    0,
    -2 * x * y,
    1 - 2 * y * y,
    -2 * y * z,
    0,
    -2 * x * z,
    -2 * y * z,
    1 - 2 * z * z,
    0,
    2 * d * x,
    2 * d * y,
    2 * d * z,
    1,
  ];
}

/** A half with its mirror image as one mesh; vertices in the plane are put on it exactly and shared. */
export function bothHalves(half: Mesh, plane: MirrorPlane): Mesh {
  const { normal, d } = plane;
  const positions = half.positions.slice();
  const count = positions.length / 3;
  let size = 0;
  for (let i = 0; i < positions.length; i++)
    size = Math.max(size, Math.abs(positions[i]));
  const target = new Uint32Array(2 * count).map((_, v) => v);
  for (let v = 0; v < count; v++) {
    const at = 3 * v;
    const off =
      normal[0] * positions[at] +
      normal[1] * positions[at + 1] +
      normal[2] * positions[at + 2] -
      d;
    if (Math.abs(off) > 2e-6 * size) continue;
    for (let k = 0; k < 3; k++)
      positions[at + k] =
        normal[k] === 1 ? d : positions[at + k] - off * normal[k];
    target[count + v] = v;
  }
  const flat = { ...half, positions };
  return mergeVertices(
    joinMeshes([flat, transformMesh(flat, reflection(plane))]),
    target,
  ).mesh;
}

/** Results of the halves, by part. */
export function wholeMeshes(
  plane: MirrorPlane | null,
  halves: readonly Sides[],
  results: readonly (Mesh | null)[],
): Map<string, Mesh | null> {
  const found = new Map<string, Mesh | null>();
  halves.forEach(({ name, halved, twin }, i) => {
    const mesh = results[i];
    found.set(name, mesh && halved ? bothHalves(mesh, plane!) : mesh);
    if (twin) found.set(twin, mesh && transformMesh(mesh, reflection(plane!)));
  });
  return found;
}
