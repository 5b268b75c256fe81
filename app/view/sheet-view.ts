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
import { keepFaces } from "../../core/mesh/change-faces";
import { tileAt } from "../../core/mesh/tiles";
import { lines, sheetGeometry } from "./geometry";
import type { PartSet } from "./part-set";
import type { PartView } from "./part-view";
import { faceAtUv } from "./island-marks";
import type { Rect } from "../shared/layout";
import type { Landing } from "../shared/view-types";
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
  private rect: Rect = { left: 0, top: 0, width: 1, height: 1 };
  /** What of it nothing lies over. */
  private clear = this.rect;
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
  applyStyle(map: Texture | null, dark: boolean): void {
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

  pan(x: number, y: number): void {
    const scale = this.perPixel();
    this.at.x -= x * scale;
    this.at.y += y * scale;
  }

  /** Goes nearer or away; what lies under the pixel stays there. */
  zoom(by: number, x: number, y: number): void {
    const zoom = Math.max(
      0.05,
      Math.min(60, this.at.zoom * Math.exp(-by * 0.0015)),
    );
    const share = 1 - this.at.zoom / zoom;
    const [u, v] = this.uvAt(x, y);
    this.at.x += share * (u - this.at.x);
    this.at.y += share * (v * this.aspect - this.at.y);
    this.at.zoom = zoom;
    this.look();
  }

  private perPixel(): number {
    return 1.08 / this.at.zoom / Math.min(this.clear.width, this.clear.height);
  }

  /** Where the camera's edges are, so that the middle of the clear part looks at the place that is looked at. */
  private look(): void {
    const { rect, clear, camera, at } = this;
    const scale = this.perPixel();
    camera.left = at.x - scale * (clear.left + clear.width / 2 - rect.left);
    camera.right = camera.left + scale * rect.width;
    camera.top = at.y + scale * (clear.top + clear.height / 2 - rect.top);
    camera.bottom = camera.top - scale * rect.height;
    camera.updateProjectionMatrix();
  }

  /** @param onCanvas the rectangle as the renderer counts it */
  render(
    renderer: WebGLRenderer,
    { rect, clear }: { rect: Rect; clear: Rect },
    onCanvas: [number, number, number, number],
    dark: boolean,
  ): void {
    this.rect = rect;
    this.clear = clear;
    renderer.setScissor(...onCanvas);
    renderer.setClearColor(new Color(dark ? "#262c30" : "#d9d5ca"));
    renderer.clear();
    renderer.setViewport(...onCanvas);
    this.look();
    renderer.render(this.scene, this.camera);
  }

  /** UV under a pixel of the view's holder. */
  uvAt(x: number, y: number): [number, number] {
    const { left, right, top, bottom } = this.camera;
    const { rect } = this;
    return [
      left + ((right - left) * (x - rect.left)) / rect.width,
      (top + ((bottom - top) * (y - rect.top)) / rect.height) / this.aspect,
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

  /** Shows how a part would be laid out in place of its islands, those that change lit, or its islands again. */
  showUnfolded(
    view: PartView | null,
    tried: { mesh: Mesh; changed: Uint8Array } | null,
  ): void {
    for (const child of [...this.unfolded.children]) {
      (child as ThreeMesh).geometry.dispose();
      this.unfolded.remove(child);
    }
    for (const each of this.parts.views.values())
      each.sheet.visible = each.isShown && !(tried && each === view);
    if (!tried || !view) return;
    const { mesh, changed } = tried;
    const kept = keepFaces(
      mesh,
      changed.map((mark) => 1 - mark),
    );
    if (kept.corners.length) this.unfolded.add(...view.islandsOf(kept));
    const anew = keepFaces(mesh, changed);
    if (!anew.corners.length) return;
    const { fill, inner, border } = sheetGeometry(anew);
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

  /** Ends the drag. @returns how far it came, in UV, and where that would be */
  drop(): { x: number; y: number; landing: Landing } | null {
    const { drag } = this;
    this.drag = null;
    this.chosen.position.set(0, 0, 0);
    return drag && (drag.x || drag.y)
      ? { x: drag.x, y: drag.y, landing: drag.landing() }
      : null;
  }
}
