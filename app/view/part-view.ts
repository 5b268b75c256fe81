import { clearGroup } from "./clear-group";
import { HullObject } from "./hull-object";
import { offset, PartExtras } from "./part-extras";
import { gameGeometry } from "./part-geometry";
import {
  Color,
  DoubleSide,
  Group,
  LineBasicMaterial,
  LineSegments,
  Mesh as ThreeMesh,
  MeshBasicMaterial,
  MeshStandardMaterial,
  BufferAttribute,
} from "three";
import type { Texture } from "three";
import type { LookDocument, PartDocument } from "../../core/asset/document";
import { hasCard } from "../../core/asset/stand-ins";
import type { Mesh } from "../../core/mesh/mesh";
import { tintMirrored } from "./checker";
import type { StreamLoader } from "./stream-loader";
import {
  edgeLines,
  sheetGeometry,
  stitchLines,
  surfaceGeometry,
} from "./geometry";
import type { ViewState } from "../shared/messages";
import type { OwnLooks } from "./own-looks";
import { splitOf } from "./split";

const CLAY = "#cdbfae";
const BONE = "#ece7dc";
const SELECTED = "#c2185b";
/** What materials look like that nobody has given a look, and what sources look like. */
const UNMADE = { colour: "#b8b2a6", roughness: 0.6, metalness: 0 };
const AS_SOURCE = { colour: CLAY, roughness: 0.85, metalness: 0 };

/** What the sheet and the baked look draw from. */
export interface ViewMaps {
  normal: Texture | null;
  ao: Texture | null;
  opacity: Texture | null;
  checker: Texture | null;
  /** What the sheet shows. */
  shown: Texture | null;
  painted: Texture | null;
}

/** One part on the table: its source, its game mesh with lines, its hulls, its islands on the sheet. */
export class PartView {
  readonly source = new Group();
  readonly game = new Group();
  /** What is tried in place of the game mesh. */
  readonly preview = new Group();
  private previewing = false;
  /** Whether a card stands for it: then it is seen from both sides, and through its mask. */
  private card = false;
  private shown = true;
  readonly hulls = new Group();
  hullObjects: HullObject[] = [];
  readonly sheet = new Group();
  /** Islands coloured by a map over the surface, drawn over their plain fill. */
  readonly sheetColoured = new Group();
  private readonly flatColoured = new MeshBasicMaterial({ vertexColors: true });
  /** The source with its faces, or null where it is too heavy and a lighter one is drawn. */
  sourceMesh: Mesh | null = null;
  /** What was tried on the source. */
  triedMesh: Mesh | null = null;
  gameMesh: Mesh | null = null;
  /** The source, or the lighter one drawn in its place. */
  drawnSource: Mesh | null = null;
  key = "";
  private readonly extras = new PartExtras();
  readonly clay = new MeshStandardMaterial({
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
  readonly fineWire = new LineBasicMaterial({
    color: "#4a5258",
    transparent: true,
    opacity: 0.22,
  });
  private readonly stitch = new LineBasicMaterial({ vertexColors: true });
  readonly hardLine = new LineBasicMaterial({ color: "#34489a" });
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

  /** @param others all parts that are drawn with it */
  constructor(
    readonly name: string,
    readonly id: number,
    private readonly others: () => Iterable<PartView>,
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
    clearGroup(this.source);
    clearGroup(this.game);
    clearGroup(this.sheetColoured);
    this.sheet.remove(this.sheetColoured);
    clearGroup(this.sheet);
    for (const hull of this.hullObjects) hull.clear();
    this.hulls.clear();
    this.showPreview(undefined);
    this.extras.forget();
    if (source)
      this.source.add(new ThreeMesh(surfaceGeometry(source), this.clay));
    this.card = hasCard(part);
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
    const hulls: HullObject[] = [];
    for (const [i, hull] of part.hulls.entries()) {
      const positions = (await loader.load<Float32Array>(hull.positions))!;
      const triangles = (await loader.load<Uint32Array>(hull.triangles))!;
      hulls.push(
        new HullObject(
          { ...hull, positions, triangles },
          this.name,
          firstHull + i,
        ),
      );
    }
    this.hullObjects = hulls;
    for (const { object } of hulls) this.hulls.add(object);
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

  /** Sources that are drawn and only baked. */
  floats(): Mesh[] {
    return [...this.others()].flatMap(({ gameMesh, drawnSource }) =>
      drawnSource && !gameMesh ? [drawnSource] : [],
    );
  }

  /** Whether the part is not hidden. */
  get isShown(): boolean {
    return this.shown;
  }

  /** Draws another mesh in place of the game mesh; null draws nothing, undefined the game mesh again. */
  showPreview(mesh: Mesh | null | undefined): void {
    clearGroup(this.preview);
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

  /** The islands in the colours of a map over the surface. */
  colourIslands(mesh: Mesh, colours: Float32Array): void {
    clearGroup(this.sheetColoured);
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
    const chosen = !state.selected.length || state.selected.includes(this.name);
    this.extras.show(state, this, chosen, size, own, ready);
    const selected = state.selected.includes(this.name);
    const glow = new Color(selected ? SELECTED : "#000000");
    this.clay.emissive.copy(glow);
    this.bone.emissive.copy(glow);
    this.clay.emissiveIntensity = this.bone.emissiveIntensity = selected
      ? 0.28
      : 0;
    if (state.checker) this.bone.defines!.MIRRORED = "";
    else delete this.bone.defines!.MIRRORED;
    const onModel = state.overlay === "map" ? maps.shown : null;
    this.bone.map =
      onModel ??
      (state.sheetShows === "painted" && maps.painted
        ? maps.painted
        : state.checker
          ? maps.checker
          : null);
    this.bone.needsUpdate = true;
    const [surface, wire, stitch, hard] = this.game.children;
    const beside = state.show === "compare" ? state.beside : "mesh";
    const baked = (state.show === "baked" || beside !== "mesh") && !onModel;
    if (surface) {
      const mesh = surface as ThreeMesh;
      mesh.material = baked
        ? this.bakedMaterials(maps, beside === "clay" ? null : looks)
        : this.bone;
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
    const onMap = !["islands", "checker"].includes(state.sheetShows);
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

  /** @param looks of the materials; null for the clay that sources are drawn in */
  private bakedMaterials(
    maps: ViewMaps,
    looks: readonly LookDocument[] | null,
  ): MeshStandardMaterial[] {
    for (const material of this.baked) material.dispose();
    this.baked = (this.gameMesh?.materials ?? []).map((name) => {
      const { colour, roughness, metalness } =
        looks?.find((each) => each.material === name) ??
        (looks ? UNMADE : AS_SOURCE);
      return new MeshStandardMaterial({
        color: colour,
        roughness,
        metalness,
        normalMap: maps.normal,
        aoMap: maps.ao,
        ...(this.card && {
          alphaMap: maps.opacity,
          // Blended and not cut off: strands thinner than a pixel of the view would be dotted.
          transparent: maps.opacity !== null,
          alphaTest: maps.opacity ? 0.1 : 0,
          side: DoubleSide,
        }),
        ...offset,
      });
    });
    return this.baked;
  }
}
