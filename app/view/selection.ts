import { trianglesOf } from "./split";
import {
  BufferAttribute,
  BufferGeometry,
  DoubleSide,
  Mesh as ThreeMesh,
  MeshBasicMaterial,
} from "three";
import { Vector3 } from "three";
import type { Camera } from "three";
import type { Mesh } from "../../core/mesh/mesh";
import { faceCount } from "../../core/mesh/mesh";
import { fromRanges, indicesOf, toRanges } from "../../core/base/ranges";
import type { Neighbours } from "../../core/mesh/select";
import {
  componentOf,
  edgeLoop,
  edgeRing,
  facesNear,
  flood,
  grow,
  invert,
  materialOf,
  neighboursOf,
  shrink,
} from "../../core/mesh/select";
import { triangleArea } from "../../core/space/sample";
import type { Tool } from "../shared/view-types";
import type { ChosenFigures, How } from "../shared/messages";
import { islandMarks, islandsIn } from "./island-marks";
import type { PartView } from "./part-view";
import { edgeName, nearestCorner } from "./picking";
import { splitOf } from "./split";

/** The chosen faces: which, how they are drawn, and what choosing more of them does. */
export class FaceSelection {
  /** Drawn over the surface. */
  readonly object = new ThreeMesh(
    new BufferGeometry(),
    new MeshBasicMaterial({
      color: "#c2185b",
      transparent: true,
      opacity: 0.55,
      side: DoubleSide,
      depthWrite: false,
      polygonOffset: true,
      polygonOffsetFactor: -1,
      polygonOffsetUnits: -1,
    }),
  );
  private readonly marks = new Map<PartView, Uint8Array>();
  private readonly known = new WeakMap<Mesh, Neighbours>();
  which: "source" | "game" = "source";

  constructor() {
    this.object.renderOrder = 4;
  }

  /** Takes over what the page says is chosen. */
  set(
    which: "source" | "game",
    faces: Readonly<Record<string, string>>,
    parts: ReadonlyMap<string, PartView>,
  ): void {
    this.which = which;
    this.marks.clear();
    for (const [name, ranges] of Object.entries(faces)) {
      const view = parts.get(name);
      const mesh = view && this.meshOf(view);
      if (!mesh) continue;
      try {
        this.marks.set(view, fromRanges(ranges, faceCount(mesh)));
      } catch {
        // The mesh has changed since: what was chosen of it is gone.
      }
    }
    this.draw();
  }

  meshOf(view: PartView): Mesh | null {
    return this.which === "source" ? view.sourceMesh : view.gameMesh;
  }

  near(mesh: Mesh): Neighbours {
    let near = this.known.get(mesh);
    if (!near) {
      near = neighboursOf(mesh);
      this.known.set(mesh, near);
    }
    return near;
  }

  /** What a tool chooses from a face. @param reach degrees for flood, metres for paint */
  choose(
    view: PartView,
    tool: Tool,
    face: number,
    point: Vector3,
    how: How,
    reach: number,
  ): void {
    const mesh = this.meshOf(view);
    if (!mesh) return;
    let found: Uint8Array;
    if (tool === "component") found = componentOf(mesh, face);
    else if (tool === "material") found = materialOf(mesh, face);
    else if (tool === "island") found = islandMarks(mesh, face);
    else if (tool === "flood") found = flood(this.near(mesh), face, reach);
    else {
      found = new Uint8Array(faceCount(mesh));
      found[face] = 1;
      if (tool === "paint")
        facesNear(mesh, point.x, point.y, point.z, reach, found);
    }
    this.merge(view, found, how);
  }

  /** Faces that look at the camera and whose middle lies in a box on the table (−1 … 1). */
  chooseInBox(
    views: Iterable<PartView>,
    camera: Camera,
    box: { left: number; right: number; bottom: number; top: number },
    how: How,
  ): void {
    if (how === "only") this.marks.clear();
    const at = new Vector3();
    const eye = new Vector3();
    for (const view of views) {
      const mesh = this.meshOf(view);
      if (!mesh || !(this.which === "source" ? view.source : view.game).visible)
        continue;
      const { normals } = this.near(mesh);
      const found = new Uint8Array(faceCount(mesh));
      for (let f = 0; f < found.length; f++) {
        middleOf(mesh, f, at);
        eye.copy(camera.position).sub(at);
        const facing =
          eye.x * normals[3 * f] +
          eye.y * normals[3 * f + 1] +
          eye.z * normals[3 * f + 2];
        if (facing <= 0) continue;
        at.project(camera);
        if (
          at.x >= box.left &&
          at.x <= box.right &&
          at.y >= box.bottom &&
          at.y <= box.top
        )
          found[f] = 1;
      }
      this.merge(view, found, how === "only" ? "add" : how);
    }
  }

  alter(
    what: "grow" | "shrink" | "invert" | "all",
    views: readonly PartView[],
  ): void {
    const over =
      what === "all" || (what === "invert" && !this.marks.size)
        ? views
        : [...this.marks.keys()];
    for (const view of over) {
      const mesh = this.meshOf(view);
      if (!mesh) continue;
      const marks = this.marks.get(view) ?? new Uint8Array(faceCount(mesh));
      const next = {
        grow: () => grow(mesh, marks),
        shrink: () => shrink(mesh, marks),
        invert: () => invert(marks),
        all: () => new Uint8Array(faceCount(mesh)).fill(1),
      }[what]();
      this.marks.set(view, next);
    }
    this.draw();
  }

  /** The edge nearest to a point, or its loop or ring, by name. */
  edgesAt(view: PartView, tool: "edge" | "loop" | "ring", point: Vector3) {
    const mesh = this.meshOf(view);
    if (!mesh) return [];
    const corner = nearestCorner(mesh, point);
    const near = this.near(mesh);
    const list =
      tool === "loop"
        ? edgeLoop(near, corner)
        : tool === "ring"
          ? edgeRing(near, corner)
          : [near.edges.ofCorner[corner]];
    return list.map((e) =>
      edgeName(
        view.name,
        near.edges.vertices[2 * e],
        near.edges.vertices[2 * e + 1],
      ),
    );
  }

  /** The marks of game meshes that have some. */
  *onGames(): Generator<[Mesh, Uint8Array]> {
    if (this.which !== "game") return;
    for (const [view, marks] of this.marks)
      if (view.gameMesh) yield [view.gameMesh, marks];
  }

  /** What is chosen of a part's game mesh, or null. */
  marksOf(view: PartView): Uint8Array | null {
    return this.which === "game" ? (this.marks.get(view) ?? null) : null;
  }

  faces(): Record<string, string> {
    const faces: Record<string, string> = {};
    for (const [view, marks] of this.marks)
      if (marks.some((mark) => mark))
        faces[view.name] = toRanges(indicesOf(marks));
    return faces;
  }

  /** @param width, height px of the sheet */
  figures(width: number, height: number): ChosenFigures {
    const figures = { faces: 0, triangles: 0, area: 0, islands: 0, density: 0 };
    let texels = 0;
    for (const [view, marks] of this.marks) {
      const mesh = this.meshOf(view);
      if (!mesh) continue;
      for (const mark of marks) figures.faces += mark;
      const { vertices, faces } = splitOf(mesh);
      for (let t = 0; t < faces.length; t++) {
        if (!marks[faces[t]]) continue;
        figures.triangles++;
        figures.area += triangleArea(mesh.positions, vertices, t);
        if (mesh.uvs) texels += width * height * uvArea(mesh, t);
      }
      if (mesh.uvs) {
        const { ofFace } = islandsIn(mesh);
        const own = new Set<number>();
        marks.forEach((mark, f) => {
          if (mark) own.add(ofFace[f]);
        });
        figures.islands += own.size;
      }
    }
    if (figures.area > 0) figures.density = Math.sqrt(texels / figures.area);
    return figures;
  }

  private merge(view: PartView, found: Uint8Array, how: How): void {
    if (how === "only") this.marks.clear();
    const marks = this.marks.get(view)?.slice() ?? new Uint8Array(found.length);
    for (let f = 0; f < found.length; f++)
      if (found[f]) marks[f] = how === "remove" ? 0 : 1;
    this.marks.set(view, marks);
    this.draw();
  }

  private draw(): void {
    const points: number[] = [];
    for (const [view, marks] of this.marks) {
      const mesh = this.meshOf(view);
      if (mesh) trianglesOf(mesh, marks, points);
    }
    this.object.geometry.dispose();
    this.object.geometry = new BufferGeometry().setAttribute(
      "position",
      new BufferAttribute(new Float32Array(points), 3),
    );
  }
}

/** Area of a triangle in UV. */
function uvArea(mesh: Mesh, t: number): number {
  const { corners } = splitOf(mesh);
  const [a, b, c] = [0, 1, 2].map((k) => 2 * corners[3 * t + k]);
  const uvs = mesh.uvs!;
  return (
    Math.abs(
      (uvs[b] - uvs[a]) * (uvs[c + 1] - uvs[a + 1]) -
        (uvs[c] - uvs[a]) * (uvs[b + 1] - uvs[a + 1]),
    ) / 2
  );
}

function middleOf(mesh: Mesh, f: number, into: Vector3): void {
  into.set(0, 0, 0);
  const s = mesh.faceStarts[f];
  const n = mesh.faceStarts[f + 1] - s;
  for (let c = s; c < s + n; c++) {
    const v = 3 * mesh.corners[c];
    into.x += mesh.positions[v] / n;
    into.y += mesh.positions[v + 1] / n;
    into.z += mesh.positions[v + 2] / n;
  }
}
