import {
  BufferAttribute,
  BufferGeometry,
  CapsuleGeometry,
  DoubleSide,
  GridHelper,
  Group,
  LineBasicMaterial,
  LineSegments,
  Mesh as ThreeMesh,
  MeshBasicMaterial,
  MeshStandardMaterial,
  PlaneGeometry,
  Points,
  PointsMaterial,
  SphereGeometry,
  SRGBColorSpace,
  Texture,
} from "three";
import type { Box3 } from "three";
import type { AssetDocument } from "../../core/asset/document";
import type { Mesh } from "../../core/mesh/mesh";
import { faceCount } from "../../core/mesh/mesh";
import { cornerNormals, faceNormals } from "../../core/mesh/normals";
import { fromRanges } from "../../core/base/ranges";
import type { StreamLoader } from "./stream-loader";
import { lines } from "./geometry";
import type { Place } from "../shared/messages";
import { trianglesOf } from "./split";

/** A standing figure of 1.75 m, and the metre grid it stands on. */
export class Measure {
  readonly object = new Group();
  private readonly figure = new Group();
  private readonly small = new GridHelper(2, 20, "#8e9a9f", "#a7b1b6");
  private readonly large = new GridHelper(20, 20, "#7d898e", "#98a3a8");

  constructor() {
    const skin = new MeshStandardMaterial({
      color: "#8fa0a6",
      roughness: 0.9,
      transparent: true,
      opacity: 0.75,
    });
    const limb = (radius: number, length: number, x: number, y: number) => {
      const mesh = new ThreeMesh(
        new CapsuleGeometry(radius, length, 8, 18),
        skin,
      );
      mesh.position.set(x, y, 0);
      this.figure.add(mesh);
      return mesh;
    };
    limb(0.075, 0.69, -0.1, 0.42);
    limb(0.075, 0.69, 0.1, 0.42);
    limb(0.16, 0.34, 0, 1.14).scale.set(1.05, 1, 0.7);
    limb(0.045, 0.52, -0.235, 1.08).rotation.z = -0.08;
    limb(0.045, 0.52, 0.235, 1.08).rotation.z = 0.08;
    limb(0.05, 0.06, 0, 1.48);
    const head = new ThreeMesh(new SphereGeometry(0.115, 24, 18), skin);
    head.scale.set(0.85, 1.08, 0.95);
    head.position.y = 1.75 - 0.115 * 1.08;
    this.figure.add(head);
    for (const grid of [this.small, this.large]) {
      const material = grid.material as LineBasicMaterial;
      material.transparent = true;
      material.opacity = grid === this.small ? 0.35 : 0.5;
    }
    this.object.add(this.figure, this.small, this.large);
  }

  place(box: Box3, shown: boolean): void {
    this.figure.visible = this.large.visible = shown;
    this.small.visible = !shown;
    if (box.isEmpty()) return;
    this.object.position.y = box.min.y;
    const width = box.max.x - box.min.x;
    this.figure.position.set(
      box.max.x + Math.max(0.4, 0.15 * width),
      0,
      (box.min.z + box.max.z) / 2,
    );
  }
}

/** Reference pictures on their planes. Nothing picks them. */
export class References {
  readonly object = new Group();
  private key = "";

  async update(document: AssetDocument, loader: StreamLoader): Promise<void> {
    const key = JSON.stringify(document.references);
    if (key === this.key) return;
    this.key = key;
    this.object.clear();
    for (const each of document.references) {
      const bytes = (await loader.load<Uint8Array>(each.bytes))!;
      const picture = await createImageBitmap(
        new Blob([bytes.slice()], { type: `image/${each.kind}` }),
        { imageOrientation: "flipY" },
      );
      const texture = new Texture(picture);
      texture.colorSpace = SRGBColorSpace;
      texture.needsUpdate = true;
      const width = (each.size * each.width) / each.height;
      const plane = new ThreeMesh(
        new PlaneGeometry(width, each.size).translate(0, each.size / 2, 0),
        new MeshBasicMaterial({
          map: texture,
          transparent: true,
          opacity: each.opacity,
          side: DoubleSide,
          depthWrite: false,
        }),
      );
      if (each.plane === "side") plane.rotation.y = Math.PI / 2;
      if (each.plane === "top") plane.rotation.x = -Math.PI / 2;
      plane.position.set(each.at[0], each.at[1], each.at[2]);
      plane.renderOrder = -1;
      this.object.add(plane);
    }
  }
}

/** What a finding names, drawn over everything so that it can't hide. */
export class PlaceMarks {
  readonly object = new Group();
  private readonly fill = new MeshBasicMaterial({
    color: "#b4432b",
    transparent: true,
    opacity: 0.5,
    depthTest: false,
    side: DoubleSide,
  });
  private readonly line = new LineBasicMaterial({
    color: "#b4432b",
    depthTest: false,
  });
  private readonly dot = new PointsMaterial({
    color: "#b4432b",
    size: 9,
    sizeAttenuation: false,
    depthTest: false,
  });

  constructor() {
    this.object.renderOrder = 6;
  }

  show(place: Place | null, mesh: Mesh | null): void {
    for (const child of this.object.children)
      (child as ThreeMesh).geometry.dispose();
    this.object.clear();
    if (!place || !mesh) return;
    const count = mesh.positions.length / 3;
    if ([...place.edges, ...place.vertices].some((v) => v >= count)) return;
    const pointsOf = (list: readonly number[]) =>
      list.flatMap((v) => [...mesh.positions.subarray(3 * v, 3 * v + 3)]);
    if (place.faces)
      try {
        const points: number[] = [];
        trianglesOf(mesh, fromRanges(place.faces, faceCount(mesh)), points);
        this.add(new ThreeMesh(lines(points), this.fill));
      } catch {
        // The mesh has changed since it was looked over.
      }
    if (place.edges.length)
      this.add(new LineSegments(lines(pointsOf(place.edges)), this.line));
    if (place.vertices.length)
      this.add(new Points(lines(pointsOf(place.vertices)), this.dot));
  }

  private add(object: ThreeMesh | LineSegments | Points): void {
    object.renderOrder = 6;
    this.object.add(object);
  }
}

/** Most normals that are drawn of one part: more would only be a fur. */
const MOST_NORMALS = 60_000;

/** Normals as short lines from vertices or from the middles of faces. @param length metres */
export function normalLines(
  mesh: Mesh,
  of: "faces" | "vertices",
  length: number,
): BufferGeometry {
  const p = mesh.positions;
  const points: number[] = [];
  const put = (at: readonly number[], n: Float32Array, i: number) => {
    points.push(at[0], at[1], at[2]);
    for (let k = 0; k < 3; k++) points.push(at[k] + length * n[3 * i + k]);
  };
  if (of === "vertices") {
    const normals = mesh.normals ?? cornerNormals(mesh);
    const step = Math.max(1, Math.ceil(mesh.corners.length / MOST_NORMALS));
    for (let c = 0; c < mesh.corners.length; c += step) {
      const v = 3 * mesh.corners[c];
      put([p[v], p[v + 1], p[v + 2]], normals, c);
    }
  } else {
    const normals = faceNormals(mesh);
    const step = Math.max(1, Math.ceil(faceCount(mesh) / MOST_NORMALS));
    for (let f = 0; f < faceCount(mesh); f += step) {
      const s = mesh.faceStarts[f];
      const n = mesh.faceStarts[f + 1] - s;
      const middle = [0, 0, 0];
      for (let c = s; c < s + n; c++)
        for (let k = 0; k < 3; k++) middle[k] += p[3 * mesh.corners[c] + k] / n;
      put(middle, normals, f);
    }
  }
  return new BufferGeometry().setAttribute(
    "position",
    new BufferAttribute(new Float32Array(points), 3),
  );
}
