import { Color, LineSegments, Matrix4, PerspectiveCamera } from "three";
import type { Object3D, Scene, WebGLRenderer } from "three";
import type { Rect } from "../shared/layout";
import { clearOf } from "../shared/layout";
import type { FaceSelection } from "./selection";
import { FOV } from "./orbit";
import { fogScene } from "./room";
import type { Side, TableScene } from "./table-scene";
import { LINES } from "./table-scene";

/** How far above what lies over the table's lower edge it is shown as large as in a game, px. */
const GAME_SIZE_ABOVE = 26;

const AS_IT_STANDS = new Matrix4();

/** Draws table and sheet, each side of a comparison with what belongs to it. */
export class TableDrawing {
  private readonly fogScene = fogScene();

  constructor(
    private readonly table: TableScene,
    private readonly renderer: WebGLRenderer,
    private readonly scene: Scene,
    /** What is drawn over a mesh, and only where that mesh is. */
    private readonly over: {
      tracing: Object3D;
      chosenEdges: Object3D;
      marks: Object3D;
      selection: FaceSelection;
      /** Where all of it is drawn: in the drop test where the bodies are. */
      bodies(): Matrix4[];
    },
  ) {}

  render(): void {
    const { renderer } = this;
    const { state } = this.table;
    if (!state) return;
    const { table, sheet } = this.table.rects();
    renderer.setScissorTest(true);
    this.table.placeCamera();
    renderer.setViewport(...this.onCanvas(table));
    this.fog(table);
    const split = this.table.split(table);
    const rest: Side =
      state.show === "revisions" && this.table.other.right
        ? "right"
        : state.show === "source" || !this.table.hasGame()
          ? "source"
          : "game";
    if (this.table.compares() && state.compareBy === "overlay")
      this.renderSide(table, "both");
    else if (this.table.compares() && state.compareBy === "blink")
      this.renderSide(table, this.table.blinked ? "game" : "source");
    else {
      const { left, width } = table;
      if (split > 0)
        this.renderSide({ ...table, width: split }, this.table.leftSide());
      if (split < width)
        this.renderSide(
          { ...table, left: left + split, width: width - split },
          rest,
        );
    }
    this.renderGameSize(table);
    if (sheet)
      this.table.sheet.render(
        renderer,
        { rect: sheet, clear: clearOf(sheet, state.sheetCovered) },
        this.onCanvas(sheet),
        state.dark,
      );
  }

  /** The game meshes over all of the canvas, without what is chosen on them. */
  renderAlone(): void {
    const { width, height } = this.table;
    const all: Rect = { left: 0, top: 0, width, height };
    this.renderer.setScissorTest(true);
    this.table.placeCamera();
    this.renderer.setViewport(...this.onCanvas(all));
    this.fog(all);
    this.showOnly("game");
    const { selection, tracing, chosenEdges, marks } = this.over;
    for (const object of [selection.object, tracing, chosenEdges, marks])
      object.visible = false;
    this.renderer.setScissor(...this.onCanvas(all));
    this.renderer.clearDepth();
    this.renderAt(AS_IT_STANDS);
  }

  private renderAt(place: Matrix4): void {
    const { sources, games, hulls } = this.table.parts;
    for (const group of [sources, games, hulls]) {
      group.matrixAutoUpdate = false;
      group.matrix.copy(place);
      group.matrixWorldNeedsUpdate = true;
    }
    this.renderer.render(this.scene, this.table.camera);
  }

  /** A rectangle as the renderer counts it: from the left and from below. */
  private onCanvas({
    left,
    top,
    width,
    height,
  }: Rect): [number, number, number, number] {
    return [left, this.table.height - top - height, width, height];
  }

  private renderSide(side: Rect, what: Side): void {
    this.showOnly(what);
    this.renderer.setScissor(...this.onCanvas(side));
    this.renderer.clearDepth();
    for (const place of this.over.bodies()) this.renderAt(place);
  }

  private showOnly(what: Side): void {
    this.table.parts.sources.visible =
      what === "source" ||
      what === "both" ||
      (what === "kept" && !this.table.hasGame());
    this.table.parts.games.visible =
      what === "game" || what === "both" || what === "kept";
    for (const view of this.table.parts.views.values()) {
      view.showKept(what === "kept");
      view.seeThrough(what === "both");
    }
    for (const side of ["left", "right"] as const) {
      const game =
        this.table.other[side]?.parts.some((part) => part.game) ?? false;
      this.table.others[side].sources.visible = what === side && !game;
      this.table.others[side].games.visible = what === side && game;
    }
    this.table.parts.hulls.visible =
      (this.table.state?.hulls ?? false) && what !== "left" && what !== "right";
    const { selection, tracing, chosenEdges, marks } = this.over;
    tracing.visible = what === "game" || what === "both";
    chosenEdges.visible = selection.object.visible =
      what === selection.which ||
      (what === "both" && selection.which === "game");
    marks.visible = what === "source";
  }

  /** Source and game mesh side by side in the corner, as high as a game would show them. */
  private renderGameSize(table: Rect): void {
    const size = this.table.state?.gameSize ?? 0;
    if (!size || !this.table.orbit.at) return;
    // Lines are no part of what a game shows: they lie in a layer that only the table's own camera sees.
    this.scene.traverse((object) => {
      if (object instanceof LineSegments) object.layers.set(LINES);
    });
    const far = new PerspectiveCamera(FOV, 1, 0.01, 1000);
    this.table.orbit.placeWhole(far, this.table.wholeBox());
    (["source", "game"] as const).forEach((what, i) => {
      const x = 10 + i * (size + 8);
      if (x + size > table.width) return;
      const from = this.table.state!.covered.below + GAME_SIZE_ABOVE;
      const place: Rect = {
        left: table.left + x,
        top: table.top + table.height - from - size,
        width: size,
        height: size,
      };
      this.renderer.setViewport(...this.onCanvas(place));
      this.renderer.setScissor(...this.onCanvas(place));
      this.renderer.setClearColor(
        new Color(this.table.state!.dark ? "#3d464b" : "#c3cccf"),
      );
      this.renderer.clear();
      this.showOnly(what);
      this.renderer.render(this.scene, far);
    });
    this.renderer.setViewport(...this.onCanvas(table));
  }

  private fog(table: Rect): void {
    const { dark } = this.table.state!;
    const { uniforms } = this.fogScene.material;
    uniforms.high.value.set(dark ? "#4d565b" : "#cdd5d8");
    uniforms.low.value.set(dark ? "#363e43" : "#b3bdc2");
    this.renderer.setScissor(...this.onCanvas(table));
    this.renderer.clear();
    this.renderer.render(this.fogScene.scene, this.table.sheet.camera);
  }
}
