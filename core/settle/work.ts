import type { Edges } from "../mesh/edges";
import { buildEdges } from "../mesh/edges";
import type { Mesh } from "../mesh/mesh";
import { faceCount } from "../mesh/mesh";
import { withFaces } from "../mesh/change-faces";
import type { MeshArray, StreamName } from "../mesh/streams";
import { mapStreams, ON_CORNERS, ON_EDGES, STREAMS } from "../mesh/streams";
import type { Triangulation } from "../mesh/triangulate";
import { triangulate } from "../mesh/triangulate";
import { Borders } from "./borders";

/** A corner that lies between two others: its UV and normal are mixed of theirs. */
interface Between {
  from: number;
  to: number;
  /** 0 at `from`, 1 at `to`. */
  share: number;
}

/** What is mixed at a corner between others. */
const BETWEEN = ON_CORNERS.filter((name) => STREAMS[name].between !== "same");

/** Places that a rule names at the most. */
export const MOST_PLACES = 40;

/** Triangles to add: three vertices, corners and edges each, and the face they are of. */
export interface NewTriangles {
  vertices: number[];
  corners: number[];
  edges: number[];
  faces: number[];
}

/**
 * The triangles of a mesh while they are settled. Every corner knows which corner of the source it takes its UV
 * and normal from, every edge whose marks it has, every triangle its face.
 */
export class SettleWork {
  /** 3 × vertexCount, metres; vertices keep their numbers. */
  positions: Float32Array;
  /** 3 × count: the vertex at each corner. */
  vertices: Uint32Array;
  /** 3 × count: the corner of the source, or from `cornerCount` on one of `between`. */
  corners: Uint32Array;
  /** 3 × count: the corner of the source whose edge marks the edge from here has, or −1 for none. */
  edges: Int32Array;
  /** count: the face of the source. */
  faces: Uint32Array;
  /** count: 0 for triangles that went. */
  alive: Uint8Array;
  /** Faces round a vertex as linked lists through the corners. */
  firstCorner = new Int32Array(0);
  nextCorner = new Int32Array(0);
  /** Spacing of single-precision numbers as large as the largest coordinate, metres. */
  readonly spacing: number;
  /** Whether anything was changed yet. */
  changed = false;
  private known: Edges | null = null;
  private readonly between: Between[] = [];
  private readonly cornerCount: number;

  constructor(readonly mesh: Mesh) {
    const split = triangulate(mesh);
    this.positions = mesh.positions;
    this.vertices = split.vertices;
    this.corners = split.corners;
    this.faces = split.faces;
    this.alive = new Uint8Array(split.faces.length).fill(1);
    this.cornerCount = mesh.corners.length;
    let most = 0;
    for (const x of mesh.positions) if (Math.abs(x) > most) most = Math.abs(x);
    this.spacing = most > 0 ? 2 ** (Math.floor(Math.log2(most)) - 23) : 0;
    this.edges = this.edgesOf(split.corners, split.faces);
  }

  get count(): number {
    return this.faces.length;
  }

  /** Corners that follow each other in their face have its edge between them; the others cut the face. */
  private edgesOf(corners: Uint32Array, faces: Uint32Array): Int32Array {
    const edges = Int32Array.from(corners);
    const { faceStarts } = this.mesh;
    if (this.mesh.corners.length === 3 * faces.length) return edges;
    for (let i = 0; i < corners.length; i++) {
      const from = corners[i];
      const to = corners[i % 3 === 2 ? i - 2 : i + 1];
      if (to !== from + 1 && to !== faceStarts[faces[(i / 3) | 0]])
        edges[i] = -1;
    }
    return edges;
  }

  /** Links the corners of the triangles that stand, round each vertex. */
  link(): void {
    const { vertices, alive } = this;
    const vertexCount = this.positions.length / 3;
    if (this.firstCorner.length !== vertexCount)
      this.firstCorner = new Int32Array(vertexCount);
    if (this.nextCorner.length !== vertices.length)
      this.nextCorner = new Int32Array(vertices.length);
    const { firstCorner, nextCorner } = this;
    firstCorner.fill(-1);
    for (let c = vertices.length - 1; c >= 0; c--) {
      if (!alive[(c / 3) | 0]) continue;
      const v = vertices[c];
      nextCorner[c] = firstCorner[v];
      firstCorner[v] = c;
    }
  }

  /** Says that triangles have changed. */
  touch(): void {
    this.changed = true;
    this.known = null;
  }

  /** The edges of what stands, where nothing has changed since somebody asked for them. */
  knownEdges(): Edges | null {
    return this.known;
  }

  /** The edges of what stands, packed. */
  allEdges(): Edges {
    if (this.known) return this.known;
    this.pack();
    const faceStarts = new Uint32Array(this.count + 1);
    for (let t = 0; t <= this.count; t++) faceStarts[t] = 3 * t;
    this.known = buildEdges({ corners: this.vertices, faceStarts });
    return this.known;
  }

  /** The open borders of what stands. */
  borders(): Borders {
    return new Borders(this, this.allEdges());
  }

  /** A corner between two others, 0 at the first. */
  cornerBetween(from: number, to: number, share: number): number {
    this.between.push({ from, to, share });
    return this.cornerCount + this.between.length - 1;
  }

  /** Takes a triangle out. */
  drop(t: number): void {
    this.alive[t] = 0;
    this.touch();
  }

  /** Adds triangles behind the others. */
  add(more: NewTriangles): void {
    const { faces } = more;
    if (!faces.length) return;
    this.vertices = joined(this.vertices, more.vertices);
    this.corners = joined(this.corners, more.corners);
    this.edges = joined(this.edges, more.edges);
    this.faces = joined(this.faces, faces);
    this.alive = joined(this.alive, new Uint8Array(faces.length).fill(1));
    this.touch();
  }

  /** Drops what went from the arrays, in order. */
  pack(): void {
    const { alive, vertices, corners, edges, faces } = this;
    let at = alive.indexOf(0);
    if (at < 0) return;
    for (let t = at; t < alive.length; t++) {
      if (!alive[t]) continue;
      if (at !== t) {
        for (let k = 0; k < 3; k++) {
          vertices[3 * at + k] = vertices[3 * t + k];
          corners[3 * at + k] = corners[3 * t + k];
          edges[3 * at + k] = edges[3 * t + k];
        }
        faces[at] = faces[t];
      }
      at++;
    }
    this.vertices = vertices.slice(0, 3 * at);
    this.corners = corners.slice(0, 3 * at);
    this.edges = edges.slice(0, 3 * at);
    this.faces = faces.slice(0, at);
    this.alive = alive.slice(0, at).fill(1);
  }

  /** Length of the edge between two vertices, metres. */
  distance(a: number, b: number): number {
    const p = this.positions;
    const x = p[3 * a] - p[3 * b];
    const y = p[3 * a + 1] - p[3 * b + 1];
    const z = p[3 * a + 2] - p[3 * b + 2];
    return Math.sqrt(x * x + y * y + z * z);
  }

  /**
   * The settled mesh and the source's face of each of its own; vertices that nothing uses stay. Polygons whose
   * triangles nobody touched are polygons again.
   */
  finish(): { mesh: Mesh; faces: Uint32Array } {
    this.pack();
    const { mesh, cornerCount } = this;
    const { starts, at, faces } = this.polygons();
    const vertices = this.vertices;
    const corners = at.map((i) => this.corners[i]);
    const made = withFaces(
      mesh,
      starts,
      corners.map((c) => this.rootOf(c)),
      faces,
      at.map((i) => vertices[i]),
    );
    const next: Mesh = {
      ...made,
      positions: this.positions,
      ...mapStreams(mesh, ON_EDGES, (values) =>
        Uint8Array.from(at, (i) =>
          this.edges[i] < 0 ? 0 : values[this.edges[i]],
        ),
      ),
    };
    for (let i = 0; i < corners.length; i++) {
      if (corners[i] < cornerCount) continue;
      for (const name of BETWEEN) {
        const values = mesh[name];
        if (values) this.mixInto(next[name]!, i, values, name, corners[i]);
      }
    }
    return { mesh: next, faces };
  }

  /** Faces of what stands: where each starts, the corners of triangles that they are made of, and the source's face. */
  private polygons(): {
    starts: Uint32Array;
    at: Uint32Array;
    faces: Uint32Array;
  } {
    const { mesh, count, faces } = this;
    if (mesh.corners.length === 3 * faceCount(mesh))
      return {
        starts: new Uint32Array(count + 1).map((_, t) => 3 * t),
        at: new Uint32Array(3 * count).map((_, i) => i),
        faces,
      };
    const whole = new WholePolygons(mesh, this);
    const starts = [0];
    const at: number[] = [];
    const of: number[] = [];
    for (let t = 0; t < count;) {
      const ring = whole.ringAt(t);
      if (ring) for (const i of ring) at.push(i);
      else at.push(3 * t, 3 * t + 1, 3 * t + 2);
      starts.push(at.length);
      of.push(faces[t]);
      t += ring ? ring.length - 2 : 1;
    }
    return {
      starts: Uint32Array.from(starts),
      at: Uint32Array.from(at),
      faces: Uint32Array.from(of),
    };
  }

  private rootOf(corner: number): number {
    while (corner >= this.cornerCount) {
      const { from, to, share } = this.between[corner - this.cornerCount];
      corner = share < 0.5 ? from : to;
    }
    return corner;
  }

  /** Sets row i to what lies between others there. */
  private mixInto(
    into: MeshArray,
    i: number,
    values: MeshArray,
    name: StreamName,
    corner: number,
  ): void {
    const { width, between } = STREAMS[name];
    const row = this.mixed(values, width, corner);
    const size = between === "unit" ? Math.hypot(...row) || 1 : 1;
    for (let k = 0; k < width; k++) into[width * i + k] = row[k] / size;
  }

  private mixed(values: MeshArray, width: number, corner: number): number[] {
    if (corner < this.cornerCount)
      return [...values.subarray(width * corner, width * (corner + 1))];
    const { from, to, share } = this.between[corner - this.cornerCount];
    const a = this.mixed(values, width, from);
    const b = this.mixed(values, width, to);
    return a.map((x, k) => x + share * (b[k] - x));
  }
}

/** Finds polygons whose triangles are still the ones they were parted into. */
class WholePolygons {
  private readonly split: Triangulation;
  /** faceCount + 1: the first triangle of each face, as it was parted. */
  private readonly firsts: Uint32Array;
  /** faceCount: how many triangles of each face stand. */
  private readonly standing: Uint32Array;

  constructor(
    private readonly mesh: Mesh,
    private readonly work: SettleWork,
  ) {
    this.split = triangulate(mesh);
    this.firsts = new Uint32Array(faceCount(mesh) + 1);
    for (const f of this.split.faces) this.firsts[f + 1]++;
    for (let f = 0; f < faceCount(mesh); f++)
      this.firsts[f + 1] += this.firsts[f];
    this.standing = new Uint32Array(faceCount(mesh));
    for (const f of work.faces) this.standing[f]++;
  }

  /** Corners of the triangles from `t` on that make the polygon there, in its order, or null. */
  ringAt(t: number): number[] | null {
    const { mesh, work, split } = this;
    const f = work.faces[t];
    const start = mesh.faceStarts[f];
    const size = mesh.faceStarts[f + 1] - start;
    const first = this.firsts[f];
    const triangles = this.firsts[f + 1] - first;
    if (size < 4 || triangles !== size - 2 || this.standing[f] !== triangles)
      return null;
    const ring = new Array<number>(size).fill(-1);
    for (let i = 0; i < 3 * triangles; i++) {
      const c = work.corners[3 * t + i];
      if (
        work.faces[t + ((i / 3) | 0)] !== f ||
        c !== split.corners[3 * first + i]
      )
        return null;
      const k = c - start;
      const had = ring[k];
      if (had >= 0 && work.vertices[had] !== work.vertices[3 * t + i])
        return null;
      // The corner whose edge in the triangle is the polygon's own carries that edge's marks.
      const next = work.corners[3 * t + (i % 3 === 2 ? i - 2 : i + 1)];
      if (had < 0 || next === start + ((k + 1) % size)) ring[k] = 3 * t + i;
    }
    const vertices = new Set(ring.map((i) => work.vertices[i]));
    return ring.includes(-1) || vertices.size < size ? null : ring;
  }
}

function joined<T extends Uint32Array | Int32Array | Uint8Array>(
  values: T,
  more: ArrayLike<number>,
): T {
  const next = new (values.constructor as new (n: number) => T)(
    values.length + more.length,
  );
  next.set(values);
  next.set(more, values.length);
  return next;
}

/** What a rule did: how often, and where, metres. */
export class Done {
  count = 0;
  readonly places: number[][] = [];

  note(positions: ArrayLike<number>, vertex: number): void {
    this.count++;
    if (this.places.length < MOST_PLACES)
      this.places.push([
        positions[3 * vertex],
        positions[3 * vertex + 1],
        positions[3 * vertex + 2],
      ]);
  }
}
