import type { Mesh } from "../mesh/mesh";
import { faceCount, triangleCount } from "../mesh/mesh";
import { compactVertices, withFaces } from "../mesh/change-faces";
import type { Neighbours } from "../mesh/select";
import { across, edgeLoop, neighboursOf } from "../mesh/select";
import { mergeVertices } from "../mesh/weld";
import { UnionFind } from "../base/union-find";

/** A loop that could go. */
export interface LoopCost {
  /** Edges of the mesh it was found on, by vertex pairs. */
  edges: readonly number[];
  /** A corner whose edge is in it. */
  corner: number;
  /** How far the surface moves at most where its vertices go, metres. */
  error: number;
  /** Triangles that go with it. */
  saved: number;
}

/** Corners whose edge parts materials, IDs or UVs, or is marked hard: such loops are held. */
function isHeld(near: Neighbours, corner: number): boolean {
  const { mesh, face } = near;
  const d = across(near, corner);
  if (d < 0) return true;
  const [f, g] = [face[corner], face[d]];
  return (
    (mesh.hard !== null && mesh.hard[corner] !== 0) ||
    (mesh.faceMaterials !== null &&
      mesh.faceMaterials[f] !== mesh.faceMaterials[g]) ||
    (mesh.ids !== null && mesh.ids[f] !== mesh.ids[g])
  );
}

/** Every edge loop inside a mesh of quads, those first whose loss moves the surface least for what it saves. */
export function loopCosts(near: Neighbours): LoopCost[] {
  const { mesh, edges, face } = near;
  const seen = new Uint8Array(edges.count);
  const found: LoopCost[] = [];
  for (let c = 0; c < mesh.corners.length; c++) {
    const e = edges.ofCorner[c];
    if (seen[e]) continue;
    const loop = edgeLoop(near, c);
    let held = false;
    for (const each of loop) {
      seen[each] = 1;
      const corner = edges.first[each];
      held ||= isHeld(near, corner);
      for (const k of [corner, edges.second[each]]) {
        const f = k < 0 ? -1 : face[k];
        held ||= f < 0 || mesh.faceStarts[f + 1] - mesh.faceStarts[f] !== 4;
      }
    }
    if (held || loop.length < 2) continue;
    const error = loopError(near, loop);
    if (error !== null)
      found.push({ edges: loop, corner: c, error, saved: 2 * loop.length });
  }
  return found.sort(
    (a, b) => a.error / a.saved - b.error / b.saved || a.corner - b.corner,
  );
}

/** How far each vertex of a loop lies from the line between its neighbours to both sides, at most. */
function loopError(near: Neighbours, loop: readonly number[]): number | null {
  const { mesh, edges } = near;
  const own = new Set(loop);
  const others = new Map<number, number[]>();
  for (const e of loop)
    for (let k = 0; k < 2; k++) others.set(edges.vertices[2 * e + k], []);
  const counted = new Set<number>();
  for (const e of loop)
    for (const corner of [edges.first[e], edges.second[e]]) {
      const f = near.face[corner];
      for (let c = mesh.faceStarts[f]; c < mesh.faceStarts[f + 1]; c++) {
        const edge = edges.ofCorner[c];
        if (own.has(edge) || counted.has(edge)) continue;
        counted.add(edge);
        const [a, b] = [edges.vertices[2 * edge], edges.vertices[2 * edge + 1]];
        others.get(a)?.push(b);
        others.get(b)?.push(a);
      }
    }
  let most = 0;
  for (const [v, ends] of others) {
    // Where more than two edges stay, the vertex does too.
    if (ends.length !== 2) continue;
    most = Math.max(most, fromLine(mesh.positions, v, ends[0], ends[1]));
  }
  return [...others.values()].some((ends) => ends.length === 2) ? most : null;
}

function fromLine(p: Float32Array, v: number, a: number, b: number): number {
  const d = [0, 1, 2].map((k) => p[3 * b + k] - p[3 * a + k]);
  const e = [0, 1, 2].map((k) => p[3 * v + k] - p[3 * a + k]);
  const dd = d[0] ** 2 + d[1] ** 2 + d[2] ** 2;
  const t = dd > 0 ? (d[0] * e[0] + d[1] * e[1] + d[2] * e[2]) / dd : 0;
  const at = Math.max(0, Math.min(1, t));
  return Math.hypot(...e.map((x, k) => x - at * d[k]));
}

export interface Thinned {
  mesh: Mesh;
  loops: number;
  /** The largest move of all loops that went, metres. */
  error: number;
}

/**
 * Takes edge loops out, cheapest first, until the mesh keeps to a number of triangles or the next one would move
 * the surface too far. Loops that touch are dealt with one after the other, since each changes what the next costs.
 * The loops that go for a number are the first of those that go for any lower one.
 * @param only faces between which loops may go; all where null
 */
export function thinLoops(
  mesh: Mesh,
  triangles: number,
  farthest: number,
  check: () => void,
  only: Uint8Array | null = null,
): Thinned {
  let at = mesh;
  let marks = only;
  let loops = 0;
  let error = 0;
  for (;;) {
    check();
    const excess = triangleCount(at) - triangles;
    if (excess <= 0) break;
    const near = neighboursOf(at);
    const costs = loopCosts(near).filter(
      (loop) =>
        loop.error <= farthest &&
        (!marks || facesBeside(near, loop).every((f) => marks![f])),
    );
    if (!costs.length) break;
    // Of what there is, the better half at most goes in one round.
    const limit = costs[costs.length >> 1].error;
    const touched = new Uint8Array(faceCount(at));
    const going: number[] = [];
    let saved = 0;
    for (const loop of costs) {
      if (saved >= excess || (going.length && loop.error > limit)) break;
      const faces = facesBeside(near, loop);
      if (faces.some((f) => touched[f])) continue;
      // The faces beside a loop share the lines that straighten when it goes.
      for (const f of faces) touched[f] = 1;
      going.push(...loop.edges);
      saved += loop.saved;
      error = Math.max(error, loop.error);
      loops++;
    }
    const next = dissolve(at, near, going);
    if (triangleCount(next.mesh) >= triangleCount(at)) break;
    at = next.mesh;
    marks = marks && Uint8Array.from(next.oldFace, (f) => marks![f]);
  }
  return { mesh: at, loops, error };
}

/** The faces on both sides of a loop. */
const facesBeside = (near: Neighbours, loop: LoopCost): number[] =>
  loop.edges.flatMap((e) => [
    near.face[near.edges.first[e]],
    near.face[near.edges.second[e]],
  ]);

/**
 * Joins the faces on both sides of edges, and takes out the vertices of those edges that only lie between two
 * edges afterwards. Faces that would get a hole stay as they are.
 */
export const dissolveEdges = (
  mesh: Mesh,
  near: Neighbours,
  going: readonly number[],
): Mesh => dissolve(mesh, near, going).mesh;

/** @returns oldFace: for each face of the mesh a face it was made of */
function dissolve(
  mesh: Mesh,
  near: Neighbours,
  going: readonly number[],
): { mesh: Mesh; oldFace: Uint32Array } {
  const { edges, face, next } = near;
  const faces = faceCount(mesh);
  const gone = new Uint8Array(edges.count);
  for (const e of going) if (edges.uses[e] === 2) gone[e] = 1;
  const joined = new UnionFind(faces);
  for (const e of going)
    if (gone[e]) joined.join(face[edges.second[e]], face[edges.first[e]]);
  const degree = new Map<number, number>();
  for (let e = 0; e < edges.count; e++)
    if (!gone[e])
      for (let k = 0; k < 2; k++) {
        const v = edges.vertices[2 * e + k];
        degree.set(v, (degree.get(v) ?? 0) + 1);
      }
  const onEdge = new Set(
    going.flatMap((e) => [edges.vertices[2 * e], edges.vertices[2 * e + 1]]),
  );
  const drops = (v: number) => onEdge.has(v) && degree.get(v) === 2;
  const starts = [0];
  const oldCorner: number[] = [];
  const oldFace: number[] = [];
  const members = new Map<number, number[]>();
  for (let f = 0; f < faces; f++) {
    const root = joined.find(f);
    const list = members.get(root);
    if (list) list.push(f);
    else members.set(root, [f]);
  }
  const push = (ring: readonly number[], f: number) => {
    const kept = ring.filter((c) => !drops(mesh.corners[c]));
    if (kept.length < 3) return;
    oldCorner.push(...kept);
    starts.push(oldCorner.length);
    oldFace.push(f);
  };
  for (const [root, list] of members) {
    const all = list.flatMap((f) =>
      Array.from(
        { length: mesh.faceStarts[f + 1] - mesh.faceStarts[f] },
        (_, k) => mesh.faceStarts[f] + k,
      ),
    );
    if (list.length === 1) {
      push(all, root);
      continue;
    }
    const outline = all.filter((c) => !gone[edges.ofCorner[c]]);
    const ring: number[] = [];
    for (let c = outline[0]; ring.length <= outline.length;) {
      ring.push(c);
      c = next[c];
      while (gone[edges.ofCorner[c]]) c = next[across(near, c)];
      if (c === outline[0]) break;
    }
    if (ring.length === outline.length) push(ring, root);
    else
      for (const f of list)
        push(
          all.filter((c) => face[c] === f),
          f,
        );
  }
  const from = Uint32Array.from(oldFace);
  return {
    mesh: compactVertices(
      withFaces(
        mesh,
        Uint32Array.from(starts),
        Uint32Array.from(oldCorner),
        from,
      ),
    ),
    oldFace: from,
  };
}

/** Brings the vertices of every edge together in its middle: an edge ring goes, and the strip of faces it crosses. */
export function collapseEdges(
  mesh: Mesh,
  near: Neighbours,
  ring: readonly number[],
): Mesh {
  const target = new Uint32Array(mesh.positions.length / 3).map((_, v) => v);
  const find = (v: number): number => {
    while (target[v] !== v) v = target[v];
    return v;
  };
  const groups = new Map<number, number[]>();
  for (const e of ring) {
    const [a, b] = [
      find(near.edges.vertices[2 * e]),
      find(near.edges.vertices[2 * e + 1]),
    ];
    if (a === b) continue;
    const [low, high] = a < b ? [a, b] : [b, a];
    target[high] = low;
    groups.set(low, [
      ...(groups.get(low) ?? [low]),
      ...(groups.get(high) ?? [high]),
    ]);
    groups.delete(high);
  }
  const positions = mesh.positions.slice();
  for (const [low, list] of groups)
    for (let k = 0; k < 3; k++)
      positions[3 * low + k] =
        list.reduce((sum, v) => sum + mesh.positions[3 * v + k], 0) /
        list.length;
  for (let v = 0; v < target.length; v++) target[v] = find(v);
  return mergeVertices({ ...mesh, positions }, target).mesh;
}

/**
 * Slides the loops of some edges onto the lines of vertices beside them and welds what then coincides. A loop that
 * slides onto another one goes on with that.
 * @param corners a corner whose edge is of the loop, each
 * @param side 0 to the one side, 1 to the other
 */
export function slideLoops(
  mesh: Mesh,
  near: Neighbours,
  corners: readonly number[],
  side: 0 | 1,
): { mesh: Mesh; welded: number } {
  const target = new Uint32Array(mesh.positions.length / 3).map((_, v) => v);
  const done = new Set<number>();
  for (const corner of corners) {
    if (done.has(near.edges.ofCorner[corner])) continue;
    const loop = new Set(edgeLoop(near, corner));
    for (const e of loop) done.add(e);
    const start = side === 0 ? corner : across(near, corner);
    if (start >= 0) aimBeside(mesh, near, start, loop, target);
  }
  for (let v = 0; v < target.length; v++) {
    // No farther than there are vertices: loops that chase each other in a ring stay.
    for (let k = 0; k < corners.length && target[target[v]] !== target[v]; k++)
      target[v] = target[target[v]];
    if (target[target[v]] !== target[v]) target[v] = v;
  }
  const welded = target.reduce((sum, t, v) => sum + (t === v ? 0 : 1), 0);
  return { mesh: mergeVertices(mesh, target).mesh, welded };
}

/** Notes for the vertices of a loop those across the quads on the side of a corner. */
function aimBeside(
  mesh: Mesh,
  near: Neighbours,
  start: number,
  loop: ReadonlySet<number>,
  target: Uint32Array,
): void {
  const { next, face } = near;
  // Round the loop on one side: each quad beside it tells where both ends of its edge go.
  const waiting = [start];
  const seen = new Set<number>();
  while (waiting.length) {
    const c = waiting.pop()!;
    if (seen.has(c)) continue;
    seen.add(c);
    const f = face[c];
    if (mesh.faceStarts[f + 1] - mesh.faceStarts[f] !== 4) continue;
    target[mesh.corners[c]] = mesh.corners[next[next[next[c]]]];
    target[mesh.corners[next[c]]] = mesh.corners[next[next[c]]];
    for (const gate of [next[c], next[next[next[c]]]]) {
      const d = across(near, gate);
      if (d < 0) continue;
      for (const beside of [next[d], next[next[next[d]]]])
        if (loop.has(near.edges.ofCorner[beside])) waiting.push(beside);
    }
  }
}
