import {
  BufferAttribute,
  BufferGeometry,
  Mesh as ThreeMesh,
  MeshBasicMaterial,
} from "three";
import { StandOff } from "../../core/collide/methods/stand-off";
import type { ConvexMesh } from "../../core/mesh/hull";
import { joinMeshes } from "../../core/mesh/change-faces";
import type { Mesh } from "../../core/mesh/mesh";
import { triangulate } from "../../core/mesh/triangulate";
import type { ViewState } from "../shared/messages";
import { ramp } from "./face-colours";
import type { HullObject } from "./hull-object";
import type { TableScene } from "./table-scene";

/** Pieces along the longest edge of a hull, and most of them along any. */
const PIECES = 14;

/**
 * The triangles of a hull in pieces that are small against it.
 * @returns positions (3 × n, metres) and triangles (3 × m) of points that are shared within each triangle
 */
export function inPieces({ positions: p, triangles }: ConvexMesh): {
  positions: Float32Array;
  triangles: Uint32Array;
} {
  const length = (a: number, b: number) =>
    Math.hypot(
      p[3 * a] - p[3 * b],
      p[3 * a + 1] - p[3 * b + 1],
      p[3 * a + 2] - p[3 * b + 2],
    );
  let longest = 0;
  for (let t = 0; t < triangles.length; t++)
    longest = Math.max(
      longest,
      length(triangles[t], triangles[t % 3 === 2 ? t - 2 : t + 1]),
    );
  const points: number[] = [];
  const made: number[] = [];
  for (let t = 0; t < triangles.length; t += 3) {
    const [a, b, c] = triangles.subarray(t, t + 3);
    const edge = Math.max(length(a, b), length(b, c), length(c, a));
    const cuts = Math.max(1, Math.ceil((PIECES * edge) / (longest || 1)));
    const first = points.length / 3;
    const at = (u: number, v: number) =>
      first + u * (cuts + 1) - (u * (u - 1)) / 2 + v;
    for (let u = 0; u <= cuts; u++)
      for (let v = 0; u + v <= cuts; v++)
        for (let k = 0; k < 3; k++)
          points.push(
            p[3 * a + k] +
              (u / cuts) * (p[3 * b + k] - p[3 * a + k]) +
              (v / cuts) * (p[3 * c + k] - p[3 * a + k]),
          );
    for (let u = 0; u < cuts; u++)
      for (let v = 0; u + v < cuts; v++) {
        made.push(at(u, v), at(u + 1, v), at(u, v + 1));
        if (u + v + 1 < cuts)
          made.push(at(u + 1, v), at(u + 1, v + 1), at(u, v + 1));
      }
  }
  return {
    positions: Float32Array.from(points),
    triangles: Uint32Array.from(made),
  };
}

/** How far hulls stand off what they stand for, as colours over them: found hull by hull, while the view goes on. */
export class HullHeat {
  private readonly material = new MeshBasicMaterial({ vertexColors: true });
  private known: { meshes: Mesh[]; stand: StandOff } | null = null;
  private shown: HullObject[] = [];
  private key = "";
  private turn = 0;

  constructor(
    private readonly table: TableScene,
    private readonly draw: () => void,
  ) {}

  /** Shows what the page asks for. @param objects all hulls there are */
  update(state: ViewState, objects: HullObject[]): void {
    const wanted = state.overlay === "standoff" && state.hulls;
    const same =
      objects.length === this.shown.length &&
      objects.every((each, i) => each === this.shown[i]);
    const key = wanted ? String(state.standOff) : "";
    if (same && key === this.key) return;
    this.key = key;
    this.shown = objects;
    const turn = ++this.turn;
    for (const each of objects) each.showHeat(null);
    if (wanted) this.next(state.standOff, 0, turn);
  }

  private next(most: number, i: number, turn: number): void {
    if (turn !== this.turn || i === this.shown.length) return;
    const stand = this.standOff();
    if (!stand) return;
    const object = this.shown[i];
    const { positions, triangles } = inPieces(object.hull);
    const colours = new Float32Array(positions.length);
    for (let v = 0; v < positions.length; v += 3) {
      const off = stand.at(positions[v], positions[v + 1], positions[v + 2]);
      colours.set(ramp(off / (most || 1)), v);
    }
    const geometry = new BufferGeometry()
      .setAttribute("position", new BufferAttribute(positions, 3))
      .setAttribute("color", new BufferAttribute(colours, 3))
      .setIndex(new BufferAttribute(triangles, 1));
    object.showHeat(new ThreeMesh(geometry, this.material));
    this.draw();
    setTimeout(() => this.next(most, i + 1, turn), 0);
  }

  /** What the hulls are measured against: all game meshes or, where there are none, the sources. */
  private standOff(): StandOff | null {
    const views = [...this.table.parts.views.values()];
    const games = views.flatMap(({ gameMesh }) => gameMesh ?? []);
    const meshes = games.length
      ? games
      : views.flatMap(({ sourceMesh }) => sourceMesh ?? []);
    if (!meshes.length) return null;
    const { known } = this;
    if (
      known?.meshes.length === meshes.length &&
      known.meshes.every((mesh, i) => mesh === meshes[i])
    )
      return known.stand;
    const whole = joinMeshes(meshes);
    const stand = new StandOff(whole.positions, triangulate(whole).vertices);
    this.known = { meshes, stand };
    return stand;
  }
}
