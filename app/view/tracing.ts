import {
  BufferGeometry,
  DataTexture,
  LineBasicMaterial,
  LineSegments,
  Group,
  Points,
  PointsMaterial,
} from "three";
import { buildEdges } from "../../core/mesh/edges";
import type { Mesh } from "../../core/mesh/mesh";
import type { UnwrapMesh } from "../../core/unwrap/methods/unwrap-mesh";
import { prepareUnwrap } from "../../core/unwrap/methods/chart";
import { edgesOfFaces } from "../../core/mesh/edges-of-faces";
import {
  exposureOf,
  exposureRanks,
} from "../../core/unwrap/methods/seams/exposure";
import { regionAt, tracePath } from "../../core/unwrap/methods/seams/trace";
import { edgeName } from "./picking";
import { lines, stitch } from "./geometry";

/** What of a part seams are traced on. */
export interface Traced {
  readonly name: string;
  readonly gameMesh: Mesh | null;
}

/** How near to a waypoint one has to be to take hold of it, px. */
const REACH = 12;
const DOT = 11;

/** A seam that is being traced through waypoints, or a region about to be cut out. */
export class Tracing {
  readonly object = new Group();
  /** Stitches of what would be set. */
  private readonly stitches = new LineSegments(
    new BufferGeometry(),
    new LineBasicMaterial({ color: "#c2185b", depthTest: false }),
  );
  private readonly dots = new Points(
    new BufferGeometry(),
    new PointsMaterial({
      color: "#c2185b",
      size: DOT,
      sizeAttenuation: false,
      map: disc(),
      alphaTest: 0.5,
      depthTest: false,
    }),
  );
  private view: Traced | null = null;
  /** Vertices that the seam goes through, and the edges from each to the next. */
  private points: number[] = [];
  private ways: number[][] = [];
  /** Edges round a region. */
  private around: number[] = [];
  private ahead: number[] = [];
  private held = -1;
  private readonly known = new WeakMap<Mesh, UnwrapMesh>();

  /** @param size metres of the whole asset, for how wide stitches are */
  constructor(private readonly size: () => number) {
    this.stitches.renderOrder = 6;
    this.dots.renderOrder = 7;
    this.dots.frustumCulled = false;
    this.object.add(this.stitches, this.dots);
  }

  /** The edges that would be set, by name. */
  edges(): string[] {
    const mesh = this.view?.gameMesh;
    if (!mesh || !this.view) return [];
    const { edges } = this.prepared(mesh);
    return [...new Set(this.fixed())].map((e) =>
      edgeName(
        this.view!.name,
        edges.vertices[2 * e],
        edges.vertices[2 * e + 1],
      ),
    );
  }

  private fixed(): number[] {
    return [...this.ways.flat(), ...this.around];
  }

  get count(): number {
    return this.points.length;
  }

  clear(): void {
    this.view = null;
    this.points = [];
    this.ways = [];
    this.around = [];
    this.ahead = [];
    this.held = -1;
    this.draw();
  }

  /** The way to a vertex from the last waypoint, shown and not yet kept. */
  hover(view: Traced, vertex: number): void {
    if (view !== this.view || !this.points.length) return;
    this.ahead = this.way(this.points[this.points.length - 1], vertex);
    this.draw();
  }

  /** A further waypoint. @returns why it is not taken, or null where it is */
  add(view: Traced, vertex: number): string | null {
    const begun = this.points.length > 0;
    if (begun && view !== this.view)
      return `the seam that is being traced lies on ${this.view!.name}: set it, or let it go with Escape, before one on ${view.name}`;
    if (!begun) {
      this.clear();
      this.view = view;
    }
    const last = this.points[this.points.length - 1];
    if (last === vertex) return "the last waypoint is there already";
    if (last !== undefined) {
      const way = this.way(last, vertex);
      if (!way.length) return "no edges lead there from the last waypoint";
      this.ways.push(way);
    }
    this.points.push(vertex);
    this.ahead = [];
    this.draw();
    return null;
  }

  /** Takes the last waypoint back. */
  back(): void {
    if (this.points.length) this.remove(this.points.length - 1);
    else this.clear();
  }

  /** Takes a waypoint out of the line; its neighbours are joined. */
  remove(at: number): void {
    this.points.splice(at, 1);
    if (!this.points.length) return this.clear();
    if (at === 0) this.ways.shift();
    else if (at === this.points.length) this.ways.pop();
    else
      this.ways.splice(
        at - 1,
        2,
        this.way(this.points[at - 1], this.points[at]),
      );
    this.ahead = [];
    this.draw();
  }

  /**
   * Takes hold of the waypoint at a pixel.
   * @param pixelOf where a place of the mesh is drawn
   * @returns its number, or −1
   */
  grab(
    pixelOf: (x: number, y: number, z: number) => readonly [number, number],
    x: number,
    y: number,
  ): number {
    const p = this.view?.gameMesh?.positions;
    this.held = -1;
    let nearest = REACH;
    this.points.forEach((v, i) => {
      const [px, py] = pixelOf(p![3 * v], p![3 * v + 1], p![3 * v + 2]);
      const off = Math.hypot(px - x, py - y);
      if (off > nearest) return;
      nearest = off;
      this.held = i;
    });
    return this.held;
  }

  /** Moves the waypoint that is held. */
  moveHeld(view: Traced, vertex: number): void {
    const { held, points, ways } = this;
    if (held < 0 || view !== this.view || points[held] === vertex) return;
    points[held] = vertex;
    if (held > 0) ways[held - 1] = this.way(points[held - 1], vertex);
    if (held + 1 < points.length)
      ways[held] = this.way(vertex, points[held + 1]);
    this.ahead = [];
    this.draw();
  }

  /** Shows the border of the region at a face. @returns whether there is one */
  region(view: Traced, face: number): boolean {
    const mesh = view.gameMesh!;
    const faces = regionAt(this.prepared(mesh), face);
    this.clear();
    if (!faces) return false;
    const marks = new Uint8Array(mesh.faceStarts.length - 1);
    for (const f of faces) marks[f] = 1;
    const around = edgesOfFaces(mesh, marks, false);
    const { edges } = this.prepared(mesh);
    this.view = view;
    for (let e = 0; e < edges.count; e++)
      if (around[edges.first[e]]) this.around.push(e);
    this.draw();
    return true;
  }

  /** The part's mesh with these edges and others as seams, or null where nothing is being drawn on one with UVs. */
  wanted<V extends Traced>(
    others: readonly string[],
    views: ReadonlyMap<string, V>,
  ): { view: V; mesh: Mesh; key: string } | null {
    const list = [...this.edges(), ...others];
    const part = /^(.*):\d+-\d+$/.exec(list[0] ?? "")?.[1];
    const view = views.get(part ?? "");
    const mesh = view?.gameMesh;
    if (!view || !mesh?.uvs) return null;
    const edges = buildEdges(mesh);
    const wanted = new Set(list);
    const seams = mesh.seams?.slice() ?? new Uint8Array(mesh.corners.length);
    for (let e = 0; e < edges.count; e++) {
      if (
        !wanted.has(
          edgeName(view.name, edges.vertices[2 * e], edges.vertices[2 * e + 1]),
        )
      )
        continue;
      seams[edges.first[e]] = 1;
      if (edges.second[e] >= 0) seams[edges.second[e]] = 1;
    }
    return {
      view,
      mesh: { ...mesh, seams },
      key: [...wanted].sort().join(" "),
    };
  }

  private way(from: number, to: number): number[] {
    return tracePath(this.prepared(this.view!.gameMesh!), from, to);
  }

  private prepared(mesh: Mesh): UnwrapMesh {
    let m = this.known.get(mesh);
    if (m) return m;
    const [ranks] = exposureRanks(
      exposureOf([mesh], "standing", () => {}),
      [prepareUnwrap(mesh).areas],
    );
    m = prepareUnwrap(mesh, null, { ranks, hide: 0.5 });
    this.known.set(mesh, m);
    return m;
  }

  /** Stitches: short ticks across each edge, as seams are drawn; and a dot for each waypoint. */
  private draw(): void {
    const mesh = this.view?.gameMesh;
    const ticks: number[] = [];
    const dots: number[] = [];
    if (mesh) {
      stitch(
        mesh,
        this.prepared(mesh).edges,
        [...this.fixed(), ...this.ahead],
        this.size() / 70,
        ticks,
      );
      for (const v of this.points)
        dots.push(...mesh.positions.subarray(3 * v, 3 * v + 3));
    }
    this.stitches.geometry.dispose();
    this.stitches.geometry = lines(ticks);
    this.dots.geometry.dispose();
    this.dots.geometry = lines(dots);
  }
}

/** A round dot with a light rim. */
function disc(): DataTexture {
  const size = 32;
  const data = new Uint8Array(4 * size * size);
  for (let i = 0; i < size * size; i++) {
    const [x, y] = [(i % size) - 15.5, Math.floor(i / size) - 15.5];
    const off = Math.hypot(x, y);
    data.set([255, 255, 255, off < 15 ? 255 : 0], 4 * i);
  }
  const texture = new DataTexture(data, size, size);
  texture.needsUpdate = true;
  return texture;
}
