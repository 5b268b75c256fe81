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
} from "three";
import type { Texture } from "three";
import type { PartDocument } from "../../core/asset/document";
import type { SurfaceLook } from "../../core/asset/asset";
import type { Mesh } from "../../core/mesh/mesh";
import { tangentsOf } from "../../core/mesh/tangents";
import { triangulate } from "../../core/mesh/triangulate";
import { cornerNormals } from "../../core/mesh/normals";
import type { StreamLoader } from "./geometry";
import {
  edgeLines,
  sheetGeometry,
  stitchLines,
  surfaceGeometry,
} from "./geometry";
import type { ViewState } from "./messages";

const CLAY = "#cdbfae";
const BONE = "#ece7dc";
const SELECTED = "#c2185b";
const offset = {
  polygonOffset: true,
  polygonOffsetFactor: 1,
  polygonOffsetUnits: 1,
};

/** What the sheet and the baked look draw from. */
export interface ViewMaps {
  normal: Texture | null;
  ao: Texture | null;
  checker: Texture;
}

/** One part on the table: its source, its game mesh with lines, its hulls, its islands on the sheet. */
export class PartView {
  readonly source = new Group();
  readonly game = new Group();
  readonly hulls = new Group();
  readonly sheet = new Group();
  gameMesh: Mesh | null = null;
  key = "";
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
  private readonly stitch = new LineBasicMaterial({ color: "#2a2f36" });
  private readonly hardLine = new LineBasicMaterial({ color: "#34489a" });
  private readonly hullFill = new MeshBasicMaterial({
    color: "#4f7f3a",
    transparent: true,
    opacity: 0.18,
    depthWrite: false,
  });
  private readonly hullLine = new LineBasicMaterial({
    color: "#3f6a2d",
    transparent: true,
    opacity: 0.8,
  });
  private readonly islandFill = new MeshBasicMaterial({
    transparent: true,
    opacity: 0.45,
  });
  private readonly islandLine = new LineBasicMaterial({
    transparent: true,
    opacity: 0.5,
  });
  private readonly islandBorder = new LineBasicMaterial({ color: "#2a2f36" });

  constructor(
    readonly name: string,
    readonly id: number,
  ) {}

  async update(
    part: PartDocument,
    loader: StreamLoader,
    size: number,
  ): Promise<void> {
    this.islandFill.color.set(part.colour);
    this.islandLine.color.set(part.colour).multiplyScalar(0.6);
    const source = part.source ? await loader.mesh(part.source) : null;
    const game = part.game ? await loader.mesh(part.game) : null;
    clear(this.source);
    clear(this.game);
    clear(this.sheet);
    clear(this.hulls);
    if (source)
      this.source.add(new ThreeMesh(surfaceGeometry(source), this.clay));
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
        const { fill, inner, border } = sheetGeometry(game);
        this.sheet.add(
          new ThreeMesh(fill, this.islandFill),
          new LineSegments(inner, this.islandLine),
          new LineSegments(border, this.islandBorder),
        );
      }
    }
    for (const hull of part.hulls) {
      const positions = (await loader.load<Float32Array>(hull.positions))!;
      const triangles = (await loader.load<Uint32Array>(hull.triangles))!;
      const shape = new BufferGeometry()
        .setAttribute("position", new BufferAttribute(positions, 3))
        .setIndex(new BufferAttribute(triangles, 1));
      const faceStarts = new Uint32Array(triangles.length / 3 + 1).map(
        (_, f) => 3 * f,
      );
      const outline = edgeLines(
        { positions, corners: triangles, faceStarts } as Mesh,
        () => true,
      );
      this.hulls.add(
        new ThreeMesh(shape, this.hullFill),
        new LineSegments(outline, this.hullLine),
      );
    }
  }

  /** Sets materials and switches by what is to be shown. */
  dress(state: ViewState, maps: ViewMaps, looks: readonly SurfaceLook[]): void {
    const selected = state.selected.includes(this.name);
    const glow = new Color(selected ? SELECTED : "#000000");
    this.clay.emissive.copy(glow);
    this.bone.emissive.copy(glow);
    this.clay.emissiveIntensity = this.bone.emissiveIntensity = selected
      ? 0.28
      : 0;
    this.bone.map = state.checker ? maps.checker : null;
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
    this.islandBorder.color.set(selected ? SELECTED : "#2a2f36");
    const onMap = state.sheetShows === "normal" || state.sheetShows === "ao";
    this.islandFill.opacity = onMap ? (selected ? 0.25 : 0) : 0.45;
    this.islandFill.map = state.sheetShows === "checker" ? maps.checker : null;
    this.islandFill.needsUpdate = true;
    this.islandLine.opacity = onMap ? 0 : 0.55;
    const shown = !state.hidden.includes(this.name);
    for (const group of [this.source, this.game, this.sheet])
      group.visible = shown;
    if (!shown) this.hulls.visible = false;
  }

  /** Remembers the part's own colour for when it is not selected. */
  setColour(colour: string): void {
    this.islandFill.userData.colour = colour;
  }

  private bakedMaterials(
    maps: ViewMaps,
    looks: readonly SurfaceLook[],
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

/** The game mesh with tangents for its normal map, and a group for each material. */
function gameGeometry(game: Mesh): BufferGeometry {
  const geometry = surfaceGeometry({
    ...game,
    normals: game.normals ?? cornerNormals(game),
  });
  const split = triangulate(game);
  if (game.uvs)
    geometry.setAttribute(
      "tangent",
      new BufferAttribute(
        tangentsOf(game, game.normals ?? cornerNormals(game), split),
        4,
      ),
    );
  let start = 0;
  const materialOf = (t: number) =>
    game.faceMaterials ? game.faceMaterials[split.faces[t]] : 0;
  for (let t = 1; t <= split.faces.length; t++)
    if (t === split.faces.length || materialOf(t) !== materialOf(start)) {
      geometry.addGroup(3 * start, 3 * (t - start), materialOf(start));
      start = t;
    }
  return geometry;
}
