import { buildEdges } from "../../mesh/edges";
import { patchRing } from "../../mesh/hole-patch";
import type { Soup, SoupPlace } from "../soup";
import { placeIn } from "../soup";
import { edgesAtHandles, loopNear } from "./find-loops";
import { after, before, HalfEdges, triangleOf } from "./half-edges";

/** What is near a handle may be this share of its piece, and so many triangles: more is no leftover but the shape. */
const NEAR_SHARE = 0.1;
const MOST_NEAR = 4000;
/** The cut surface draws back from the cut by this share of the way to its neighbours. */
const DRAWN_BACK = 0.1;

export interface ClosedHandles {
  soup: Soup;
  /** Where each was. */
  places: SoupPlace[];
}

/**
 * Cuts handles that lie wholly within a ball along the surface, by the shortest loop round them, and closes both
 * sides (after Guskov and Wood 2001, "Topological noise removal"). What scanning leaves of bridges and tunnels is
 * far below a triangle of the result, and each of them would cost it seams and islands.
 * @param reach for each mesh the radius of the ball, metres
 * @param stays per triangle: whether it is to be left as it is; null for none
 */
export function closeHandles(
  soup: Soup,
  reach: ArrayLike<number>,
  stays: ArrayLike<number> | null,
  check: () => void = () => {},
): ClosedHandles {
  const corners = soup.triangles;
  const faceStarts = new Uint32Array(soup.owner.length + 1).map(
    (_, t) => 3 * t,
  );
  const edges = buildEdges({ corners, faceStarts });
  const mesh = new HalfEdges(soup.positions, corners, edges);
  check();
  const { halfEdges, pieceSize } = edgesAtHandles(mesh, edges);
  if (!halfEdges.length) return { soup, places: [] };
  const places: SoupPlace[] = [];
  const like: number[] = [];
  const sizes = halfEdges.map((h) => pieceSize(triangleOf(h)));
  halfEdges.forEach((h, i) => {
    check();
    const t = triangleOf(h);
    const most = Math.min(MOST_NEAR, NEAR_SHARE * sizes[i]);
    const loop = loopNear(mesh, mesh.origin[h], reach[soup.owner[t]], most);
    if (!loop) return;
    const touched = loop.halfEdges.flatMap((g) => [g, mesh.opposite[g]]);
    if (stays && touched.some((g) => stays[triangleOf(g)])) return;
    if (!cutAlong(mesh, loop.halfEdges)) return;
    for (let made = soup.owner.length + like.length; made < mesh.triangles;)
      made = soup.owner.length + like.push(t);
    places.push(placeIn(soup, soup.owner[t], middleOf(mesh, loop.halfEdges)));
  });
  return { soup: places.length ? soupOf(soup, mesh, like) : soup, places };
}

/** Gives what is on the left of a loop vertices of its own and closes both sides; false where it meets a border. */
function cutAlong(mesh: HalfEdges, loop: readonly number[]): boolean {
  const n = loop.length;
  const fans = loop.map((h, i) => mesh.fan(h, loop[(i + n - 1) % n]));
  if (fans.some((fan) => !fan)) return false;
  const right = loop.map((h) => mesh.opposite[h]);
  const old = loop.map((h) => mesh.origin[h]);
  const rightFans = old.map((_, i) =>
    mesh.fan(right[(i + n - 1) % n], right[i]),
  );
  if (rightFans.some((fan) => !fan)) return false;
  const made = old.map((v) => mesh.copyOf(v));
  fans.forEach((fan, i) => mesh.lead(fan!, made[i]));
  rightFans.forEach((fan, i) => mesh.lead(fan!, old[i]));
  for (const h of [...loop, ...right]) mesh.opposite[h] = -1;
  made.forEach((v, i) => drawBack(mesh, v, fans[i]!, made));
  const leftRing = made.map((vertex, i) => ({ vertex, fan: fans[i]! }));
  closeRing(mesh, leftRing.reverse(), loop);
  closeRing(
    mesh,
    old.map((vertex, i) => ({ vertex, fan: rightFans[i]! })),
    right,
  );
  return true;
}

function drawBack(
  { points, ...mesh }: HalfEdges,
  v: number,
  fan: readonly number[],
  ring: readonly number[],
): void {
  const others = fan
    .map((h) => mesh.origin[after(h)])
    .filter((w) => !ring.includes(w));
  if (!others.length) return;
  for (let k = 0; k < 3; k++) {
    const mean =
      others.reduce((sum, w) => sum + points[3 * w + k], 0) / others.length;
    points[3 * v + k] += DRAWN_BACK * (mean - points[3 * v + k]);
  }
}

/**
 * Puts a patch over a ring of vertices, in the order in which it runs along them.
 * @param borders the half-edges round the hole
 */
function closeRing(
  mesh: HalfEdges,
  ring: readonly { vertex: number; fan: readonly number[] }[],
  borders: readonly number[],
): void {
  const points = Float64Array.from(
    ring.flatMap(({ vertex: v }) => [...mesh.points.slice(3 * v, 3 * v + 3)]),
  );
  const near = ring.map(
    ({ fan }) =>
      new Set(fan.flatMap((h) => [mesh.target(h), mesh.origin[before(h)]])),
  );
  const joined = (i: number, j: number) => near[i].has(ring[j].vertex);
  const patch = patchRing({ points, around: [], joined }, false);
  const vertices = ring.map(({ vertex }) => vertex);
  for (let i = 0; i < patch.inner.length; i += 3)
    vertices.push(mesh.addVertex(patch.inner.slice(i, i + 3)));
  const open = new Map(
    borders.map((h) => [`${mesh.target(h)} ${mesh.origin[h]}`, h]),
  );
  for (let i = 0; i < patch.triangles.length; i += 3) {
    const [a, b, c] = [0, 1, 2].map((k) => vertices[patch.triangles[i + k]]);
    const first = mesh.addTriangle(a, b, c);
    for (let h = first; h < first + 3; h++) {
      const [from, to] = [mesh.origin[h], mesh.target(h)];
      const other = open.get(`${from} ${to}`);
      if (other === undefined) open.set(`${to} ${from}`, h);
      else mesh.pair(h, other);
    }
  }
}

function middleOf({ points, origin }: HalfEdges, loop: readonly number[]) {
  return [0, 1, 2].map(
    (k) =>
      loop.reduce((sum, h) => sum + points[3 * origin[h] + k], 0) / loop.length,
  );
}

/** @param like for each new triangle the one that it is like */
function soupOf(soup: Soup, mesh: HalfEdges, like: readonly number[]): Soup {
  const more = <T extends Uint16Array | Uint32Array>(values: T): T => {
    const next = new (values.constructor as new (n: number) => T)(
      mesh.triangles,
    );
    next.set(values);
    like.forEach((t, i) => (next[values.length + i] = values[t]));
    return next;
  };
  const marks = new Uint8Array(3 * mesh.triangles);
  marks.set(soup.marks);
  return {
    positions: mesh.points.slice(0, 3 * mesh.vertices),
    triangles: mesh.origin.slice(0, 3 * mesh.triangles),
    owner: more(soup.owner),
    face: more(soup.face),
    material: more(soup.material),
    id: more(soup.id),
    marks,
    centre: soup.centre,
  };
}
