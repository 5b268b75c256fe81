import { BufferGeometry, LineBasicMaterial, LineSegments } from "three";
import { buildEdges } from "../../core/mesh/edges";
import type { Mesh } from "../../core/mesh/mesh";
import type { UnwrapMesh } from "../../core/unwrap/chart";
import { prepareUnwrap } from "../../core/unwrap/chart";
import { edgesOfFaces } from "../../core/mesh/edges-of-faces";
import { exposureOf, exposureRanks } from "../../core/unwrap/seams/exposure";
import { regionAt, tracePath } from "../../core/unwrap/seams/trace";
import { unfoldSeams } from "../../core/unwrap/unfold-seams";
import { edgeName } from "./picking";
import { lines, stitch } from "./geometry";
import type { PartView } from "./part-view";

/** How a part would be laid out with the seams that are being drawn. */
export interface TriedSeams {
  view: PartView;
  mesh: Mesh;
  islands: number;
  stretch: number;
  milliseconds: number;
}

/** A seam that is being traced through waypoints, or a region about to be cut out. */
export class Tracing {
  /** Stitches of what would be set. */
  readonly object = new LineSegments(
    new BufferGeometry(),
    new LineBasicMaterial({ color: "#c2185b", depthTest: false }),
  );
  private view: PartView | null = null;
  private points: number[] = [];
  private fixed: number[] = [];
  private ahead: number[] = [];
  private readonly known = new WeakMap<Mesh, UnwrapMesh>();

  /** @param size metres of the whole asset, for how wide stitches are */
  constructor(private readonly size: () => number) {
    this.object.renderOrder = 6;
  }

  /** The edges that would be set, by name. */
  edges(): string[] {
    const mesh = this.view?.gameMesh;
    if (!mesh || !this.view) return [];
    const { edges } = this.prepared(mesh);
    return [...new Set(this.fixed)].map((e) =>
      edgeName(
        this.view!.name,
        edges.vertices[2 * e],
        edges.vertices[2 * e + 1],
      ),
    );
  }

  get count(): number {
    return this.points.length;
  }

  clear(): void {
    this.view = null;
    this.points = [];
    this.fixed = [];
    this.ahead = [];
    this.draw();
  }

  /** The way to a vertex from the last waypoint, shown and not yet kept. */
  hover(view: PartView, vertex: number): void {
    if (view !== this.view || !this.points.length) return;
    this.ahead = tracePath(
      this.prepared(view.gameMesh!),
      this.points[this.points.length - 1],
      vertex,
    );
    this.draw();
  }

  /** A further waypoint; on another part everything begins anew. */
  add(view: PartView, vertex: number): void {
    if (view !== this.view) {
      this.clear();
      this.view = view;
    }
    const last = this.points[this.points.length - 1];
    if (last === vertex) return;
    if (last !== undefined)
      this.fixed.push(
        ...tracePath(this.prepared(view.gameMesh!), last, vertex),
      );
    this.points.push(vertex);
    this.ahead = [];
    this.draw();
  }

  /** Takes the last waypoint back. */
  back(): void {
    const { view, points } = this;
    if (!view) return;
    const rest = points.slice(0, -1);
    this.clear();
    if (rest.length) for (const vertex of rest) this.add(view, vertex);
  }

  /** Shows the border of the region at a face. @returns whether there is one */
  region(view: PartView, face: number): boolean {
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
      if (around[edges.first[e]]) this.fixed.push(e);
    this.draw();
    return true;
  }

  /** How the part would be laid out with these edges and others as seams, or null where nothing is being drawn. */
  tried(
    others: readonly string[],
    views: ReadonlyMap<string, PartView>,
    sheet: { width: number; height: number },
  ): TriedSeams | null {
    const list = [...this.edges(), ...others];
    const part = /^(.*):\d+-\d+$/.exec(list[0] ?? "")?.[1];
    const view = views.get(part ?? "");
    const mesh = view?.gameMesh;
    if (!view || !mesh?.uvs) return null;
    const start = performance.now();
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
    const made = unfoldSeams({ ...mesh, seams }, sheet, { rounds: 6 });
    return { view, ...made, milliseconds: performance.now() - start };
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

  /** Stitches: short ticks across each edge, as seams are drawn. */
  private draw(): void {
    const mesh = this.view?.gameMesh;
    const points: number[] = [];
    if (mesh) {
      stitch(
        mesh,
        this.prepared(mesh).edges,
        [...this.fixed, ...this.ahead],
        this.size() / 70,
        points,
      );
    }
    this.object.geometry.dispose();
    this.object.geometry = lines(points);
  }
}
