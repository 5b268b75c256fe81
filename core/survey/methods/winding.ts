import type { Mesh } from "../../mesh/mesh";
import { faceCount } from "../../mesh/mesh";
import { reverseFaces } from "../../mesh/change-faces";
import { seededRandom } from "../../base/random";
import { flatNormal } from "../../space/vector";
import type { Named } from "./finding";
import { MeshAnalysis } from "../../mesh/mesh-analysis";

/** Faces wound against the rest of their shell, and shells turned inside out. */
export function findTurned(look: MeshAnalysis): Named {
  const { turned, shells } = judgeWinding(look);
  const faces: number[] = [];
  for (let f = 0; f < turned.length; f++) if (turned[f]) faces.push(f);
  return {
    count: faces.length,
    faces,
    ...(shells
      ? {
          note: `${shells} ${shells === 1 ? "shell is" : "shells are"} turned inside out`,
        }
      : {}),
  };
}

/** Turns the faces over that `findTurned` names; stored normals that went along with the old side turn too. */
export function setWindingRight(mesh: Mesh): { mesh: Mesh; turned: number } {
  const look = new MeshAnalysis(mesh, 0);
  const { turned } = judgeWinding(look);
  const count = turned.reduce((sum, t) => sum + t, 0);
  if (!count) return { mesh, turned: 0 };
  const right = reverseFaces(mesh, turned);
  const { normals } = right;
  if (normals)
    for (let f = 0; f < turned.length; f++) {
      if (!turned[f]) continue;
      const s = mesh.faceStarts[f];
      const n = triangleNormal(right, s);
      const agree = [0, 1, 2].reduce(
        (sum, k) => sum + n[k] * normals[3 * s + k],
        0,
      );
      if (agree >= 0) continue;
      for (let i = 3 * s; i < 3 * mesh.faceStarts[f + 1]; i++)
        normals[i] = -normals[i];
    }
  return { mesh: right, turned: count };
}

/**
 * Winds each shell after its larger side, then asks rays which side is the outer one (after Takayama et al.
 * 2014, "A simple method for correcting facet orientations in polygon meshes based on ray casting"): from points
 * of the shell, rays to the front must get away from it more often than rays to the back. Only the shell itself
 * is in the way, so shells inside one another are judged apart. Shells that rays can't tell (flat or gently bent
 * sheets) are left as they are.
 */
function judgeWinding(look: MeshAnalysis): {
  turned: Uint8Array;
  /** Shells turned as a whole. */
  shells: number;
} {
  const { mesh, next, face } = look;
  const faces = faceCount(mesh);
  const side = new Int8Array(faces);
  const turned = new Uint8Array(faces);
  const shell = new Uint32Array(faces);
  let shells = 0;
  for (let seed = 0; seed < faces; seed++) {
    if (side[seed]) continue;
    let size = 0;
    shell[size++] = seed;
    side[seed] = 1;
    for (let k = 0; k < size; k++) {
      const f = shell[k];
      for (let c = mesh.faceStarts[f]; c < mesh.faceStarts[f + 1]; c++) {
        const d = look.across(c);
        if (d < 0 || side[face[d]]) continue;
        const along = mesh.corners[d] === mesh.corners[next[c]];
        side[face[d]] = along ? side[f] : (-side[f] as 1 | -1);
        shell[size++] = face[d];
      }
    }
    const list = shell.subarray(0, size);
    let against = 0;
    for (const f of list) if (side[f] < 0) against++;
    const outward = outwardSide(mesh, list, side);
    const right = outward || (2 * against > size ? -1 : 1);
    let here = 0;
    for (const f of list)
      if (side[f] !== right) {
        turned[f] = 1;
        here++;
      }
    if (here === size) shells++;
  }
  return { turned, shells };
}

/** Rays to each side after which a plain case is settled, a likely one, and any. */
const FEWEST_RAYS = 6;
const FEW_RAYS = 12;
const MANY_RAYS = 96;

/** Which sign of `side` faces outwards: 1, −1, or 0 where rays can't tell. */
function outwardSide(
  mesh: Mesh,
  shell: Uint32Array,
  side: Int8Array,
): 1 | -1 | 0 {
  if (shell.length < 3) return 0;
  const triangles = trianglesOf(mesh, shell);
  const random = seededRandom(shell.length);
  const running = runningArea(triangles);
  const total = running[running.length - 1];
  if (!(total > 0)) return 0;
  const lift = 1e-5 * Math.sqrt(total);
  let front = 0;
  let back = 0;
  let cast = 0;
  const point = [0, 0, 0];
  while (cast < MANY_RAYS) {
    const t = pick(running, random() * total);
    const normal = pointOn(triangles, t, random, point);
    if (side[shell[triangles.faceOf[t]]] < 0)
      for (let k = 0; k < 3; k++) normal[k] = -normal[k];
    const d = direction(random);
    const facing = d[0] * normal[0] + d[1] * normal[1] + d[2] * normal[2];
    if (facing < 0) for (let k = 0; k < 3; k++) d[k] = -d[k];
    cast++;
    if (escapes(triangles.xyz, point, normal, lift, d)) front++;
    // The same ray mirrored at the face, to the back.
    const mirrored = d.map((x, k) => x - 2 * Math.abs(facing) * normal[k]);
    if (escapes(triangles.xyz, point, normal, -lift, mirrored)) back++;
    const clear = Math.abs(front - back);
    if (cast === FEWEST_RAYS && clear >= FEWEST_RAYS - 1) break;
    if (cast === FEW_RAYS && clear >= FEW_RAYS / 2) break;
  }
  const difference = (front - back) / cast;
  if (Math.abs(difference) > 0.15) return difference > 0 ? 1 : -1;
  return 0;
}

interface Triangles {
  /** 9 × count */
  xyz: Float32Array;
  /** Place in the shell of each triangle's face. */
  faceOf: Uint32Array;
}

/** Fans of the faces of a shell. */
function trianglesOf(mesh: Mesh, shell: Uint32Array): Triangles {
  let count = 0;
  for (const f of shell)
    count += mesh.faceStarts[f + 1] - mesh.faceStarts[f] - 2;
  const xyz = new Float32Array(9 * count);
  const faceOf = new Uint32Array(count);
  let t = 0;
  const p = mesh.positions;
  for (let i = 0; i < shell.length; i++) {
    const s = mesh.faceStarts[shell[i]];
    for (let c = s + 1; c + 1 < mesh.faceStarts[shell[i] + 1]; c++) {
      faceOf[t] = i;
      for (let k = 0; k < 3; k++) {
        xyz[9 * t + k] = p[3 * mesh.corners[s] + k];
        xyz[9 * t + 3 + k] = p[3 * mesh.corners[c] + k];
        xyz[9 * t + 6 + k] = p[3 * mesh.corners[c + 1] + k];
      }
      t++;
    }
  }
  return { xyz, faceOf };
}

function runningArea({ xyz }: Triangles): Float64Array {
  const running = new Float64Array(xyz.length / 9);
  let sum = 0;
  for (let t = 0; t < running.length; t++) {
    const [x, y, z] = flatNormal(xyz, 9 * t);
    sum += Math.hypot(x, y, z);
    running[t] = sum;
  }
  return running;
}

function triangleNormal(mesh: Mesh, s: number): [number, number, number] {
  const q = new Float32Array(9);
  for (let k = 0; k < 3; k++)
    q.set(
      mesh.positions.subarray(
        3 * mesh.corners[s + k],
        3 * mesh.corners[s + k] + 3,
      ),
      3 * k,
    );
  return flatNormal(q, 0);
}

function pick(running: Float64Array, at: number): number {
  let low = 0;
  let high = running.length - 1;
  while (low < high) {
    const middle = (low + high) >>> 1;
    if (running[middle] < at) low = middle + 1;
    else high = middle;
  }
  return low;
}

/** A random point of a triangle into `point`; returns its unit normal. */
function pointOn(
  { xyz }: Triangles,
  t: number,
  random: () => number,
  point: number[],
): number[] {
  const r = Math.sqrt(random());
  const v = r * random();
  const u = r - v;
  for (let k = 0; k < 3; k++) {
    const a = xyz[9 * t + k];
    point[k] = a + u * (xyz[9 * t + 3 + k] - a) + v * (xyz[9 * t + 6 + k] - a);
  }
  const n = flatNormal(xyz, 9 * t);
  const length = Math.hypot(...n) || 1;
  return n.map((x) => x / length);
}

function direction(random: () => number): number[] {
  const z = 2 * random() - 1;
  const a = 2 * Math.PI * random();
  const r = Math.sqrt(1 - z * z);
  return [r * Math.cos(a), r * Math.sin(a), z];
}

/**
 * Whether a ray from just off a point meets none of the triangles. Looks at every triangle: a shell gets a few
 * dozen rays, which costs less than a hierarchy of it.
 */
function escapes(
  q: Float32Array,
  point: readonly number[],
  normal: readonly number[],
  lift: number,
  d: readonly number[],
): boolean {
  const [dx, dy, dz] = d;
  const ox = point[0] + lift * normal[0];
  const oy = point[1] + lift * normal[1];
  const oz = point[2] + lift * normal[2];
  for (let i = 0; i < q.length; i += 9) {
    const ax = q[i] - ox;
    const ay = q[i + 1] - oy;
    const az = q[i + 2] - oz;
    const bx = q[i + 3] - ox;
    const by = q[i + 4] - oy;
    const bz = q[i + 5] - oz;
    // Signed volumes of the ray with the edges; all of one sign means it passes through.
    const abx = ay * bz - az * by;
    const aby = az * bx - ax * bz;
    const abz = ax * by - ay * bx;
    const w = dx * abx + dy * aby + dz * abz;
    const cx = q[i + 6] - ox;
    const cy = q[i + 7] - oy;
    const cz = q[i + 8] - oz;
    const u =
      dx * (by * cz - bz * cy) +
      dy * (bz * cx - bx * cz) +
      dz * (bx * cy - by * cx);
    if (u < 0 !== w < 0 && u !== 0 && w !== 0) continue;
    const v =
      dx * (cy * az - cz * ay) +
      dy * (cz * ax - cx * az) +
      dz * (cx * ay - cy * ax);
    if ((u < 0 || v < 0 || w < 0) && (u > 0 || v > 0 || w > 0)) continue;
    const sum = u + v + w;
    if (sum === 0) continue;
    // Volume of the origin with the triangle, over the same sum, is the distance.
    const volume = cx * abx + cy * aby + cz * abz;
    if (volume / sum > 0) return false;
  }
  return true;
}
