import type { Group } from "three";
import {
  LineBasicMaterial,
  LineSegments,
  Mesh as ThreeMesh,
  MeshBasicMaterial,
  MeshStandardMaterial,
} from "three";
import type { Mesh } from "../../core/mesh/mesh";
import { subdivide } from "../../core/mesh/subdivide";
import type { ViewState } from "../shared/messages";
import { cageShell } from "./cage-shell";
import { distanceGeometry } from "./distance-map";
import { UNSEEN, faceColours } from "./face-colours";
import { diagonalLines, edgeLines, lines, surfaceGeometry } from "./geometry";
import type { OwnLooks } from "./own-looks";
import { MOST_SMOOTH, MOST_WIRED, colouredGeometry } from "./part-geometry";
import { trianglesOf } from "./split";
import { normalLines } from "./surroundings";
import { isUvOverlay, uvColours } from "./uv-colours";

/** Surfaces stand behind the lines that are drawn on them. */
export const offset = {
  polygonOffset: true,
  polygonOffsetFactor: 1,
  polygonOffsetUnits: 1,
};

/** What the extras of a part are made of, and where they go. */
export interface PartMeshes {
  name: string;
  /** Drawn sources that are only baked. */
  floats(): Mesh[];
  sourceMesh: Mesh | null;
  gameMesh: Mesh | null;
  triedMesh: Mesh | null;
  /** The source, or the lighter one drawn in its place. */
  drawnSource: Mesh | null;
  source: Group;
  game: Group;
  sheetColoured: Group;
  clay: MeshStandardMaterial;
  fineWire: LineBasicMaterial;
  hardLine: LineBasicMaterial;
  surfaceOf(source: boolean): ThreeMesh | null;
  colourIslands(mesh: Mesh, colours: Float32Array): void;
}

/** What is drawn of a part only when it is switched on: made then, and kept while nothing of it changes. */
export class PartExtras {
  private readonly coloured = new MeshStandardMaterial({
    vertexColors: true,
    roughness: 0.9,
    metalness: 0,
    ...offset,
  });
  /** Unseen faces, drawn through what hides them. */
  private readonly through = new MeshBasicMaterial({
    color: UNSEEN,
    transparent: true,
    opacity: 0.16,
    depthTest: false,
    depthWrite: false,
  });
  private readonly shell = new MeshBasicMaterial({
    color: "#1f6f78",
    transparent: true,
    opacity: 0.16,
    depthWrite: false,
  });
  private readonly shellEdge = new LineBasicMaterial({
    color: "#1f6f78",
    transparent: true,
    opacity: 0.45,
  });
  /** Edges that a delivery has and the mesh has not. */
  private readonly diagonal = new LineBasicMaterial({
    color: "#6e5e9b",
    transparent: true,
    opacity: 0.35,
  });
  private readonly normalLine = new LineBasicMaterial({ color: "#1f6f78" });
  /** What was made on request, by what it was made for. */
  private key = "";
  private readonly made: (ThreeMesh | LineSegments)[] = [];

  /** Forgets what was made: its groups have been cleared. */
  forget(): void {
    this.made.length = 0;
    this.key = "";
  }

  /** Wire of the source, colours over the surface, normals, a subdivided look: made when they are switched on. */
  show(
    state: ViewState,
    part: PartMeshes,
    chosen: boolean,
    size: number,
    own: OwnLooks,
    ready: () => void,
  ): void {
    const { sourceMesh, gameMesh } = part;
    const levels = chosen ? state.subdivide : 0;
    const tried = state.triedSources ? part.triedMesh : null;
    const wire =
      state.wire &&
      sourceMesh !== null &&
      sourceMesh.corners.length < MOST_WIRED;
    part.sheetColoured.visible = isUvOverlay(state.overlay);
    const key = JSON.stringify([
      wire,
      levels,
      tried !== null,
      state.overlay,
      state.overlay === "seen" ? state.threshold : 0,
      state.overlay === "ids" ? state.palette : 0,
      state.overlay === "distance" ? state.farthest : 0,
      state.overlay === "texels"
        ? [state.texels, state.sheetWidth, state.sheetHeight]
        : 0,
      state.overlay === "own" ? own.version : 0,
      state.normals,
      state.hard,
      state.cage,
      state.triangulated && state.wire,
    ]);
    if (key === this.key) return;
    this.key = key;
    for (const each of this.made) {
      each.removeFromParent();
      each.geometry.dispose();
    }
    this.made.length = 0;
    const smooth =
      tried ??
      (sourceMesh &&
      levels &&
      sourceMesh.corners.length * 4 ** levels < MOST_SMOOTH
        ? subdivide(sourceMesh, levels)
        : null);
    if (state.overlay === "own" && part.drawnSource && !smooth) {
      const { geometry, materials } = own.applyStyle(part.drawnSource, ready);
      this.add(part.source, new ThreeMesh(geometry, materials));
    }
    this.showSource(state, part, smooth, wire);
    if (smooth ?? sourceMesh)
      this.showOver(state, part, part.source, (smooth ?? sourceMesh)!, size);
    if (gameMesh) this.showOver(state, part, part.game, gameMesh, size);
    if (state.cage && gameMesh) this.showCage(state.cage, part, gameMesh);
    if (state.triangulated && state.wire && gameMesh)
      this.add(
        part.game,
        new LineSegments(diagonalLines(gameMesh), this.diagonal),
      );
    for (const source of [true, false]) {
      const surface = part.surfaceOf(source);
      const group = source ? part.source : part.game;
      if (surface)
        surface.visible = !this.made.some(
          (each) =>
            each.parent === group &&
            each instanceof ThreeMesh &&
            each.material !== this.shell,
        );
    }
  }
  private add(group: Group, object: ThreeMesh | LineSegments): void {
    this.made.push(object);
    group.add(object);
  }

  /** Where the rays of a bake begin, over the source, of which what pokes out is seen, and over the game mesh. */
  private showCage(
    { all, own }: NonNullable<ViewState["cage"]>,
    part: PartMeshes,
    game: Mesh,
  ): void {
    const { surface, edges } = cageShell(
      game,
      part.drawnSource,
      part.floats(),
      own[part.name] ?? all,
    );
    for (const group of [part.source, part.game]) {
      this.add(group, new ThreeMesh(surface, this.shell));
      this.add(group, new LineSegments(edges, this.shellEdge));
    }
  }

  /** Another surface in place of the source, its wire and its hard edges. */
  private showSource(
    { hard }: ViewState,
    { sourceMesh, source, clay, fineWire, hardLine }: PartMeshes,
    smooth: Mesh | null,
    wire: boolean,
  ): void {
    if (smooth) this.add(source, new ThreeMesh(surfaceGeometry(smooth), clay));
    const shown = smooth ?? sourceMesh;
    if (wire && shown)
      this.add(
        source,
        new LineSegments(
          edgeLines(shown, () => true),
          fineWire,
        ),
      );
    if (hard && sourceMesh?.hard && !smooth)
      this.add(
        source,
        new LineSegments(
          edgeLines(sourceMesh, (corner) => sourceMesh.hard![corner] === 1),
          hardLine,
        ),
      );
  }

  /** What lies over a surface: colours of an overlay, faces nobody sees, normals. */
  private showOver(
    state: ViewState,
    part: PartMeshes,
    group: Group,
    mesh: Mesh,
    size: number,
  ): void {
    const isGame = group === part.game;
    if (state.overlay === "distance") {
      const other = isGame ? part.sourceMesh : part.gameMesh;
      if (other)
        this.add(
          group,
          new ThreeMesh(
            distanceGeometry(mesh, other, state.farthest, isGame ? 1 : -1),
            this.coloured,
          ),
        );
      return;
    }
    const colours = isUvOverlay(state.overlay)
      ? uvColours(mesh, state.overlay, state)
      : faceColours(mesh, state.overlay, state.palette, state.threshold);
    if (colours && isGame) part.colourIslands(mesh, colours);
    if (colours)
      this.add(
        group,
        new ThreeMesh(colouredGeometry(mesh, colours), this.coloured),
      );
    if (state.overlay === "seen" && mesh.visibility) {
      const points: number[] = [];
      const limit = Math.floor(255 * state.threshold);
      trianglesOf(
        mesh,
        mesh.visibility.map((seen) => (seen <= limit ? 1 : 0)),
        points,
      );
      if (points.length)
        this.add(group, new ThreeMesh(lines(points), this.through));
    }
    if (state.normals !== "off")
      this.add(
        group,
        new LineSegments(
          normalLines(mesh, state.normals, size / 90),
          this.normalLine,
        ),
      );
  }
}
