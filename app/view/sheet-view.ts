import {
  BufferAttribute,
  BufferGeometry,
  Color,
  DoubleSide,
  Group,
  LineBasicMaterial,
  LineSegments,
  Mesh as ThreeMesh,
  MeshBasicMaterial,
  OrthographicCamera,
  PlaneGeometry,
  Scene,
} from "three";
import type { Texture, WebGLRenderer } from "three";
import type { Mesh } from "../../core/mesh/mesh";
import { tileAt } from "../../core/mesh/tiles";
import { lines, sheetGeometry } from "./geometry";
import type { PartSet } from "./part-set";
import type { PartView } from "./part-view";
import { faceAtUv } from "./island-marks";
import { SheetDrag } from "./sheet-drag";
import { splitOf } from "./split";

const SELECTED = "#c2185b";

/** The sheets beside the table: their grounds, the islands on them, what is chosen and what is being dragged. */
export class SheetView {
  private readonly scene = new Scene();
  readonly camera = new OrthographicCamera(-0.1, 1.1, 1.1, -0.1, -1, 1);
  /** Everything in UV; stretched upright where sheets are not square. */
  private readonly space = new Group();
  private readonly grounds = new Group();
  private readonly ground = new MeshBasicMaterial({ color: "#fbfaf7" });
  private readonly frame = new LineBasicMaterial({ color: "#7b8288" });
  private readonly chosen = new ThreeMesh(
    new BufferGeometry(),
    new MeshBasicMaterial({
      color: SELECTED,
      transparent: true,
      opacity: 0.5,
      side: DoubleSide,
      depthTest: false,
    }),
  );
  private readonly unfolded = new Group();
  private readonly unfoldedFill = new MeshBasicMaterial({
    color: SELECTED,
    transparent: true,
    opacity: 0.22,
  });
  private readonly unfoldedLine = new LineBasicMaterial({ color: SELECTED });
  private at = { x: 0.5, y: 0.5, zoom: 1 };
  private aspect = 1;
  private tiles = "";
  private width = 1;
  private height = 1;
  private drag: SheetDrag | null = null;

  constructor(private readonly parts: PartSet) {
    this.chosen.renderOrder = 3;
    this.space.add(this.grounds, parts.islands, this.unfolded, this.chosen);
    this.scene.add(this.space);
    this.setTiles([0], 1);
  }

  /** @param tiles from 0; @param aspect height of a sheet against its width */
  setTiles(tiles: readonly number[], aspect: number): void {
    const key = JSON.stringify([tiles, aspect]);
    if (key === this.tiles) return;
    this.tiles = key;
    this.aspect = aspect;
    this.space.scale.set(1, aspect, 1);
    for (const child of [...this.grounds.children]) {
      (child as ThreeMesh).geometry.dispose();
      this.grounds.remove(child);
    }
    for (const tile of tiles.length ? tiles : [0]) {
      const [x, y] = tileAt(tile);
      const square = new PlaneGeometry(1, 1);
      const at = square.getAttribute("uv");
      for (let k = 0; k < at.count; k++)
        at.setXY(k, at.getX(k) + x, at.getY(k) + y);
      const plane = new ThreeMesh(square, this.ground);
      plane.position.set(x + 0.5, y + 0.5, -0.5);
      const frame = new LineSegments(
        lines([
          0, 0, 0, 1, 0, 0, 1, 0, 0, 1, 1, 0, 1, 1, 0, 0, 1, 0, 0, 1, 0, 0, 0,
          0,
        ]),
        this.frame,
      );
      frame.position.set(x, y, 0);
      this.grounds.add(plane, frame);
    }
    this.whole();
  }

  /** What lies under the islands: a map as a picture, or paper. */
  dress(map: Texture | null, dark: boolean): void {
    this.ground.map = map;
    this.ground.color.set(map ? "#ffffff" : dark ? "#d9d6ce" : "#fbfaf7");
    this.ground.needsUpdate = true;
  }

  /** Shows all tiles. */
  whole(): void {
    let [x1, y1] = [1, 1];
    for (const tile of JSON.parse(this.tiles)[0] as number[]) {
      const [x, y] = tileAt(tile);
      x1 = Math.max(x1, x + 1);
      y1 = Math.max(y1, y + 1);
    }
    this.at = {
      x: x1 / 2,
      y: (y1 * this.aspect) / 2,
      zoom: 1 / Math.max(x1, y1 * this.aspect),
    };
  }

  move(how: "pan" | "zoom", x: number, y: number): void {
    if (how === "zoom") {
      this.at.zoom = Math.max(
        0.05,
        Math.min(60, this.at.zoom * Math.exp(-y * 0.0015)),
      );
      return;
    }
    const scale = this.perPixel();
    this.at.x -= x * scale;
    this.at.y += y * scale;
  }

  private perPixel(): number {
    return 1.15 / this.at.zoom / Math.min(this.width, this.height);
  }

  render(
    renderer: WebGLRenderer,
    left: number,
    width: number,
    height: number,
    dark: boolean,
  ): void {
    this.width = width;
    this.height = height;
    renderer.setScissor(left, 0, width, height);
    renderer.setClearColor(new Color(dark ? "#262c30" : "#d9d5ca"));
    renderer.clear();
    renderer.setViewport(left, 0, width, height);
    const half = 0.575 / this.at.zoom;
    const wide = width / height;
    const [hx, hy] = wide > 1 ? [half * wide, half] : [half, half / wide];
    this.camera.left = this.at.x - hx;
    this.camera.right = this.at.x + hx;
    this.camera.top = this.at.y + hy;
    this.camera.bottom = this.at.y - hy;
    this.camera.updateProjectionMatrix();
    renderer.render(this.scene, this.camera);
  }

  /** UV under a pixel counted from the sheet's left and the top. */
  uvAt(x: number, y: number): [number, number] {
    const { left, right, top, bottom } = this.camera;
    return [
      left + ((right - left) * x) / this.width,
      (top + ((bottom - top) * y) / this.height) / this.aspect,
    ];
  }

  /** The face whose UVs lie under a pixel. */
  faceAt(
    x: number,
    y: number,
    views: readonly PartView[],
  ): { view: PartView; face: number } | null {
    const [u, v] = this.uvAt(x, y);
    for (const view of views) {
      const face = view.gameMesh ? faceAtUv(view.gameMesh, u, v) : -1;
      if (face >= 0) return { view, face };
    }
    return null;
  }

  /** Draws what is chosen of game meshes over their islands. */
  showChosen(marks: Iterable<[Mesh, Uint8Array]>): void {
    const points: number[] = [];
    for (const [mesh, own] of marks) {
      if (!mesh.uvs) continue;
      const { corners, faces } = splitOf(mesh);
      for (let i = 0; i < corners.length; i++)
        if (own[faces[(i / 3) | 0]])
          points.push(
            mesh.uvs[2 * corners[i]],
            mesh.uvs[2 * corners[i] + 1],
            0,
          );
    }
    this.chosen.geometry.dispose();
    this.chosen.geometry = new BufferGeometry().setAttribute(
      "position",
      new BufferAttribute(new Float32Array(points), 3),
    );
  }

  /** Shows how a part would be laid out in place of its islands, or those again. */
  showUnfolded(view: PartView | null, mesh: Mesh | null): void {
    for (const child of [...this.unfolded.children]) {
      (child as ThreeMesh).geometry.dispose();
      this.unfolded.remove(child);
    }
    for (const each of this.parts.views.values())
      each.sheet.visible = each.isShown && !(mesh && each === view);
    if (!mesh?.uvs) return;
    const { fill, inner, border } = sheetGeometry(mesh);
    this.unfolded.add(
      new ThreeMesh(fill, this.unfoldedFill),
      new LineSegments(inner, this.unfoldedLine),
      new LineSegments(border, this.unfoldedLine),
    );
  }

  /** Begins to drag what is chosen. @param gap free space kept, as a share of the width */
  grab(
    views: readonly PartView[],
    marksOf: (view: PartView) => Uint8Array | null,
    gap: number,
  ): void {
    this.drag = new SheetDrag(
      views.flatMap((view) =>
        view.gameMesh?.uvs
          ? [{ mesh: view.gameMesh, marks: marksOf(view) }]
          : [],
      ),
      this.aspect,
      gap,
    );
  }

  /** Drags on by pixels. */
  dragBy(x: number, y: number): void {
    if (!this.drag) return;
    const scale = this.perPixel();
    this.drag.by(x * scale, (-y * scale) / this.aspect);
    this.chosen.position.set(this.drag.x, this.drag.y, 0);
  }

  /** Ends the drag. @returns how far it came, in UV */
  drop(): [number, number] | null {
    const { drag } = this;
    this.drag = null;
    this.chosen.position.set(0, 0, 0);
    return drag && (drag.x || drag.y) ? [drag.x, drag.y] : null;
  }
}
