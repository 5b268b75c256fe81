import {
  MOST_WIRED,
  MOST_SMOOTH,
  colouredGeometry,
  gameGeometry,
} from "./part-geometry";
import {
  Color,
  Group,
  LineBasicMaterial,
  LineSegments,
  Mesh as ThreeMesh,
  MeshBasicMaterial,
  MeshStandardMaterial,
  BufferAttribute,
  BufferGeometry,
  EdgesGeometry,
} from "three";
import type { Texture } from "three";
import type { LookDocument, PartDocument } from "../../core/asset/document";
import type { Mesh } from "../../core/mesh/mesh";
import { hullColour } from "./hull-colours";
import { subdivide } from "../../core/mesh/subdivide";
import { distanceGeometry } from "./distance-map";
import { tintMirrored } from "./checker";
import { UNSEEN, faceColours } from "./face-colours";
import { isUvOverlay, uvColours } from "./uv-colours";
import type { StreamLoader } from "./geometry";
import {
  edgeLines,
  lines,
  sheetGeometry,
  stitchLines,
  surfaceGeometry,
} from "./geometry";
import type { ViewState } from "../shared/messages";
import type { OwnLooks } from "./own-looks";
import { trianglesOf, splitOf } from "./split";
import { normalLines } from "./surroundings";

const CLAY = "#cdbfae";
const BONE = "#ece7dc";
const SELECTED = "#c2185b";
/** Edges of hulls that bend less than this are not drawn, degrees. */
const FLAT_HULL = 8;
const offset = {
  polygonOffset: true,
  polygonOffsetFactor: 1,
  polygonOffsetUnits: 1,
};

/** What the sheet and the baked look draw from. */
export interface ViewMaps {
  normal: Texture | null;
  ao: Texture | null;
  checker: Texture | null;
  painted: Texture | null;
}

/** One part on the table: its source, its game mesh with lines, its hulls, its islands on the sheet. */
export class PartView {
  readonly source = new Group();
  readonly game = new Group();
  /** What is tried in place of the game mesh. */
  readonly preview = new Group();
  private previewing = false;
  private shown = true;
  readonly hulls = new Group();
  readonly sheet = new Group();
  /** Islands coloured by a map over the surface, drawn over their plain fill. */
  private readonly sheetColoured = new Group();
  private readonly flatColoured = new MeshBasicMaterial({ vertexColors: true });
  /** The source with its faces, or null where it is too heavy and a lighter one is drawn. */
  sourceMesh: Mesh | null = null;
  /** What was tried on the source. */
  private triedMesh: Mesh | null = null;
  gameMesh: Mesh | null = null;
  /** The source, or the lighter one drawn in its place. */
  private drawnSource: Mesh | null = null;
  key = "";
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
  private readonly normalLine = new LineBasicMaterial({ color: "#1f6f78" });
  /** What was made on request, by what it was made for. */
  private extraKey = "";
  private readonly extras: (ThreeMesh | LineSegments)[] = [];
  private readonly clay = new MeshStandardMaterial({
    color: CLAY,
    roughness: 0.85,
    metalness: 0,
  });
  private readonly bone = new MeshStandardMaterial({
    color: BONE,
    roughness: 0.8,
    metalness: 0,
    ...offset,
  });
  private baked: MeshStandardMaterial[] = [];
  private readonly wire = new LineBasicMaterial({
    color: "#6e5e9b",
    transparent: true,
    opacity: 0.6,
  });
  /** Sources are dense: their wire must not hide them. */
  private readonly fineWire = new LineBasicMaterial({
    color: "#4a5258",
    transparent: true,
    opacity: 0.22,
  });
  private readonly stitch = new LineBasicMaterial({ vertexColors: true });
  private readonly hardLine = new LineBasicMaterial({ color: "#34489a" });
  private readonly islandFill = new MeshBasicMaterial({
    transparent: true,
    opacity: 0.45,
  });
  private readonly islandLine = new LineBasicMaterial({
    transparent: true,
    opacity: 0.5,
  });
  private readonly islandBorder = new LineBasicMaterial({
    vertexColors: true,
  });

  constructor(
    readonly name: string,
    readonly id: number,
  ) {
    tintMirrored(this.bone);
  }

  async update(
    part: PartDocument,
    loader: StreamLoader,
    size: number,
    firstHull = 0,
  ): Promise<void> {
    this.islandFill.color.set(part.colour);
    this.islandLine.color.set(part.colour).multiplyScalar(0.6);
    const heavy = part.source !== null && part.light !== null;
    const drawn = part.light ?? part.source;
    const source = (this.drawnSource = drawn ? await loader.mesh(drawn) : null);
    this.triedMesh = part.tried ? await loader.mesh(part.tried) : null;
    const game = part.game ? await loader.mesh(part.game) : null;
    clear(this.source);
    clear(this.game);
    clear(this.sheetColoured);
    this.sheet.remove(this.sheetColoured);
    clear(this.sheet);
    clear(this.hulls);
    this.showPreview(undefined);
    this.extras.length = 0;
    this.extraKey = "";
    if (source)
      this.source.add(new ThreeMesh(surfaceGeometry(source), this.clay));
    this.sourceMesh = heavy ? null : source;
    this.gameMesh = game;
    if (game) {
      const surface = new ThreeMesh(gameGeometry(game), this.bone);
      this.game.add(
        surface,
        new LineSegments(
          edgeLines(game, () => true),
          this.wire,
        ),
      );
      this.game.add(
        new LineSegments(stitchLines(game, size / 90), this.stitch),
      );
      this.game.add(
        new LineSegments(
          edgeLines(game, (corner) => game.hard?.[corner] === 1),
          this.hardLine,
        ),
      );
      if (game.uvs) {
        const [fill, inner, border] = this.islandsOf(game);
        this.sheet.add(fill, this.sheetColoured, inner, border);
      }
    }
    for (const [i, hull] of part.hulls.entries()) {
      const positions = (await loader.load<Float32Array>(hull.positions))!;
      const triangles = (await loader.load<Uint32Array>(hull.triangles))!;
      const shape = new BufferGeometry()
        .setAttribute("position", new BufferAttribute(positions, 3))
        .setIndex(new BufferAttribute(triangles, 1));
      const colour = new Color(hullColour(firstHull + i));
      this.hulls.add(
        new ThreeMesh(
          shape,
          new MeshBasicMaterial({
            color: colour,
            transparent: true,
            opacity: 0.3,
            depthWrite: false,
          }),
        ),
        new LineSegments(
          new EdgesGeometry(shape, FLAT_HULL),
          new LineBasicMaterial({
            color: colour.clone().multiplyScalar(0.5),
            transparent: true,
            opacity: 0.6,
            depthTest: false,
          }),
        ),
      );
    }
  }

  /** What draws the islands of a mesh as those of this part. */
  islandsOf(mesh: Mesh): [ThreeMesh, LineSegments, LineSegments] {
    const { fill, inner, border } = sheetGeometry(mesh);
    return [
      new ThreeMesh(fill, this.islandFill),
      new LineSegments(inner, this.islandLine),
      new LineSegments(border, this.islandBorder),
    ];
  }

  /** Whether the part is not hidden. */
  get isShown(): boolean {
    return this.shown;
  }

  /** Draws another mesh in place of the game mesh; null draws nothing, undefined the game mesh again. */
  showPreview(mesh: Mesh | null | undefined): void {
    clear(this.preview);
    this.previewing = mesh !== undefined;
    if (mesh)
      this.preview.add(
        new ThreeMesh(surfaceGeometry(mesh), this.bone),
        new LineSegments(
          edgeLines(mesh, () => true),
          this.wire,
        ),
      );
    this.preview.visible = this.previewing && this.game.visible;
    if (this.previewing) this.game.visible = false;
  }

  /** Shows the game mesh although another is tried in its place, or that again. */
  showKept(kept: boolean): void {
    if (!this.previewing || !this.shown) return;
    this.game.visible = kept;
    this.preview.visible = !kept;
  }

  /** Lets the game mesh show through its source. */
  seeThrough(through: boolean): void {
    if (this.clay.transparent === through) return;
    this.clay.transparent = through;
    this.clay.opacity = through ? 0.5 : 1;
    this.clay.depthWrite = !through;
    this.clay.needsUpdate = true;
    this.fineWire.opacity = through ? 0 : 0.22;
  }

  /** The drawn surface of the source or the game mesh. */
  surfaceOf(source: boolean): ThreeMesh | null {
    return (
      ((source ? this.source : this.game).children[0] as
        ThreeMesh | undefined) ?? null
    );
  }

  /** The face of a drawn triangle. */
  faceOf(mesh: Mesh, triangle: number): number {
    return splitOf(mesh).faces[triangle];
  }

  /** Wire of the source, colours over the surface, normals, a subdivided look: made when they are switched on. */
  private dressExtras(
    state: ViewState,
    size: number,
    own: OwnLooks,
    ready: () => void,
  ): void {
    const { sourceMesh, gameMesh } = this;
    const chosen = !state.selected.length || state.selected.includes(this.name);
    const levels = chosen ? state.subdivide : 0;
    const tried = state.triedSources ? this.triedMesh : null;
    const wire =
      state.wire &&
      sourceMesh !== null &&
      sourceMesh.corners.length < MOST_WIRED;
    this.sheetColoured.visible = isUvOverlay(state.overlay);
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
    ]);
    if (key === this.extraKey) return;
    this.extraKey = key;
    for (const each of this.extras) {
      each.removeFromParent();
      each.geometry.dispose();
    }
    this.extras.length = 0;
    const add = (group: Group, object: ThreeMesh | LineSegments) => {
      this.extras.push(object);
      group.add(object);
    };
    const smooth =
      tried ??
      (sourceMesh &&
      levels &&
      sourceMesh.corners.length * 4 ** levels < MOST_SMOOTH
        ? subdivide(sourceMesh, levels)
        : null);
    if (state.overlay === "own" && this.drawnSource && !smooth) {
      const { geometry, materials } = own.applyStyle(this.drawnSource, ready);
      add(this.source, new ThreeMesh(geometry, materials));
    }
    if (smooth)
      add(this.source, new ThreeMesh(surfaceGeometry(smooth), this.clay));
    if (wire)
      add(
        this.source,
        new LineSegments(
          edgeLines(smooth ?? sourceMesh, () => true),
          this.fineWire,
        ),
      );
    if (state.hard && sourceMesh?.hard && !smooth)
      add(
        this.source,
        new LineSegments(
          edgeLines(sourceMesh, (corner) => sourceMesh.hard![corner] === 1),
          this.hardLine,
        ),
      );
    for (const [group, mesh] of [
      [this.source, smooth ?? sourceMesh],
      [this.game, gameMesh],
    ] as const) {
      if (!mesh) continue;
      if (state.overlay === "distance") {
        const other = mesh === gameMesh ? sourceMesh : gameMesh;
        if (other)
          add(
            group,
            new ThreeMesh(
              distanceGeometry(
                mesh,
                other,
                state.farthest,
                mesh === gameMesh ? 1 : -1,
              ),
              this.coloured,
            ),
          );
        continue;
      }
      const colours = isUvOverlay(state.overlay)
        ? uvColours(mesh, state.overlay, state)
        : faceColours(mesh, state.overlay, state.palette, state.threshold);
      if (colours && group === this.game) this.colourIslands(mesh, colours);
      if (colours)
        add(
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
          add(group, new ThreeMesh(lines(points), this.through));
      }
      if (state.normals !== "off")
        add(
          group,
          new LineSegments(
            normalLines(mesh, state.normals, size / 90),
            this.normalLine,
          ),
        );
    }
    for (const source of [true, false]) {
      const surface = this.surfaceOf(source);
      const group = source ? this.source : this.game;
      if (surface)
        surface.visible = !this.extras.some(
          (each) => each.parent === group && each instanceof ThreeMesh,
        );
    }
  }

  /** The islands in the colours of a map over the surface. */
  private colourIslands(mesh: Mesh, colours: Float32Array): void {
    clear(this.sheetColoured);
    if (!mesh.uvs) return;
    const { fill } = sheetGeometry(mesh);
    const { faces } = splitOf(mesh);
    const colour = new Float32Array(9 * faces.length);
    for (let t = 0; t < faces.length; t++)
      for (let k = 0; k < 9; k++)
        colour[9 * t + k] = colours[3 * faces[t] + (k % 3)];
    fill.setAttribute("color", new BufferAttribute(colour, 3));
    this.sheetColoured.add(new ThreeMesh(fill, this.flatColoured));
  }

  /** Sets materials and switches by what is to be shown. @param ready is told when there is more to be drawn */
  applyStyle(
    state: ViewState,
    maps: ViewMaps,
    looks: readonly LookDocument[],
    own: OwnLooks,
    size: number,
    ready: () => void,
  ): void {
    this.dressExtras(state, size, own, ready);
    const selected = state.selected.includes(this.name);
    const glow = new Color(selected ? SELECTED : "#000000");
    this.clay.emissive.copy(glow);
    this.bone.emissive.copy(glow);
    this.clay.emissiveIntensity = this.bone.emissiveIntensity = selected
      ? 0.28
      : 0;
    if (state.checker) this.bone.defines!.MIRRORED = "";
    else delete this.bone.defines!.MIRRORED;
    this.bone.map =
      state.sheetShows === "painted" && maps.painted
        ? maps.painted
        : state.checker
          ? maps.checker
          : null;
    this.bone.needsUpdate = true;
    const [surface, wire, stitch, hard] = this.game.children;
    const baked = state.show === "baked";
    if (surface) {
      const mesh = surface as ThreeMesh;
      mesh.material = baked ? this.bakedMaterials(maps, looks) : this.bone;
      wire.visible = state.wire && !baked;
      stitch.visible = state.seams;
      hard.visible = state.hard;
    }
    this.hulls.visible = state.hulls;
    this.islandFill.color.set(
      selected
        ? SELECTED
        : (this.islandFill.userData.colour ?? this.islandFill.color),
    );
    const onMap = ["normal", "ao", "painted"].includes(state.sheetShows);
    this.islandFill.opacity = onMap ? (selected ? 0.25 : 0) : 0.45;
    this.islandFill.map = state.sheetShows === "checker" ? maps.checker : null;
    this.islandFill.needsUpdate = true;
    this.islandLine.opacity = onMap ? 0 : 0.55;
    const shown = (this.shown = !state.hidden.includes(this.name));
    this.source.visible = this.sheet.visible = shown;
    this.game.visible = shown && !this.previewing;
    this.preview.visible = shown && this.previewing;
    if (this.preview.children[1]) this.preview.children[1].visible = state.wire;
    if (!shown) this.hulls.visible = false;
  }

  /** Remembers the part's own colour for when it is not selected. */
  setColour(colour: string): void {
    this.islandFill.userData.colour = colour;
  }

  private bakedMaterials(
    maps: ViewMaps,
    looks: readonly LookDocument[],
  ): MeshStandardMaterial[] {
    for (const material of this.baked) material.dispose();
    this.baked = (this.gameMesh?.materials ?? []).map((name) => {
      const look = looks.find((each) => each.material === name);
      return new MeshStandardMaterial({
        color: look?.colour ?? "#b8b2a6",
        roughness: look?.roughness ?? 0.6,
        metalness: look?.metalness ?? 0,
        normalMap: maps.normal,
        aoMap: maps.ao,
        ...offset,
      });
    });
    return this.baked;
  }
}

function clear(group: Group): void {
  for (const child of [...group.children]) {
    (child as ThreeMesh).geometry.dispose();
    group.remove(child);
  }
}
