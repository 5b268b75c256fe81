import { BufferAttribute, BufferGeometry } from "three";
import type { Mesh } from "../../core/mesh/mesh";
import { triangleCount } from "../../core/mesh/mesh";
import { triangulate } from "../../core/mesh/triangulate";
import { buildBvh } from "../../core/space/bvh";
import { ClosestPoint } from "../../core/space/closest-point";
import { flatNormal } from "../../core/space/vector";
import { ramp } from "./face-colours";
import { surfaceGeometry } from "./geometry";

/** Triangles up to this many are drawn in pieces, so that what lies between their corners shows too. */
const MOST_CUT = 60_000;
/** Pieces along an edge. */
const CUTS = 4;

/**
 * Signed distance of points to a mesh, metres: above 0 where they lie outside of it.
 * @param points 3 × n
 */
export function signedDistances(
  points: Float32Array,
  other: Mesh,
): Float32Array {
  const { vertices } = triangulate(other);
  const closest = new ClosestPoint(buildBvh(other.positions, vertices));
  const q = other.positions;
  const distances = new Float32Array(points.length / 3);
  const corners = new Float32Array(9);
  for (let v = 0; v < distances.length; v++) {
    const [x, y, z] = [points[3 * v], points[3 * v + 1], points[3 * v + 2]];
    const t = closest.find(x, y, z);
    for (let k = 0; k < 9; k++)
      corners[k] = q[3 * vertices[3 * t + Math.floor(k / 3)] + (k % 3)];
    const n = flatNormal(corners, 0);
    const side =
      (x - closest.x) * n[0] + (y - closest.y) * n[1] + (z - closest.z) * n[2];
    distances[v] = Math.sqrt(closest.distance2) * (side < 0 ? -1 : 1);
  }
  return distances;
}

/** Every triangle in CUTS × CUTS flat pieces, corner by corner, with the normals of its corners in between. */
function inPieces(geometry: BufferGeometry): BufferGeometry {
  const whole = geometry.index ? geometry.toNonIndexed() : geometry;
  const pieces: Record<string, Float32Array> = {};
  for (const name of ["position", "normal"]) {
    const from = whole.getAttribute(name).array;
    const made = new Float32Array(from.length * CUTS * CUTS);
    let at = 0;
    const put = (t: number, u: number, v: number) => {
      for (let k = 0; k < 3; k++) {
        const [a, b, c] = [from[t + k], from[t + 3 + k], from[t + 6 + k]];
        made[at++] = a + (u / CUTS) * (b - a) + (v / CUTS) * (c - a);
      }
    };
    for (let t = 0; t < from.length; t += 9)
      for (let u = 0; u < CUTS; u++)
        for (let v = 0; u + v < CUTS; v++) {
          put(t, u, v);
          put(t, u + 1, v);
          put(t, u, v + 1);
          if (u + v + 1 === CUTS) continue;
          put(t, u + 1, v);
          put(t, u + 1, v + 1);
          put(t, u, v + 1);
        }
    pieces[name] = made;
  }
  const cut = new BufferGeometry();
  for (const [name, values] of Object.entries(pieces))
    cut.setAttribute(name, new BufferAttribute(values, 3));
  return cut;
}

interface Measured {
  geometry: BufferGeometry;
  distances: Float32Array;
}
const known = new WeakMap<Mesh, WeakMap<Mesh, Measured>>();

/** Measured once for as long as both meshes are there. */
function measured(mesh: Mesh, other: Mesh): Measured {
  const before = known.get(mesh)?.get(other);
  if (before) return before;
  const plain = surfaceGeometry(mesh);
  const geometry = triangleCount(mesh) <= MOST_CUT ? inPieces(plain) : plain;
  const found = {
    geometry,
    distances: signedDistances(
      geometry.getAttribute("position").array as Float32Array,
      other,
    ),
  };
  if (!known.has(mesh)) known.set(mesh, new WeakMap());
  known.get(mesh)!.set(other, found);
  return found;
}

/**
 * A surface coloured by its signed distance to another one.
 * @param farthest ends of the scale, metres
 * @param way 1 for the game mesh; −1 turns the sign, so that both sides show where the game mesh stands out
 */
export function distanceGeometry(
  mesh: Mesh,
  other: Mesh,
  farthest: number,
  way: 1 | -1,
): BufferGeometry {
  const { geometry, distances } = measured(mesh, other);
  const colours = new Float32Array(3 * distances.length);
  for (let i = 0; i < distances.length; i++)
    colours.set(ramp(0.5 + (way * distances[i]) / (2 * farthest || 1)), 3 * i);
  return geometry
    .clone()
    .setAttribute("color", new BufferAttribute(colours, 3));
}
