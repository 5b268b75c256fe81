import { Box3, DirectionalLight, PerspectiveCamera } from "three";
import type { AssetDocument } from "../../core/asset/document";
import type { Rect } from "../shared/layout";
import { clearOf, isWithin, layoutOf } from "../shared/layout";
import type { ViewState } from "../shared/messages";
import { StreamLoader } from "./stream-loader";
import { FOV, Orbit } from "./orbit";
import { PartSet } from "./part-set";
import type { PartView } from "./part-view";
import type { Hit } from "./picking";
import { castAt } from "./picking";
import { SheetView } from "./sheet-view";

/** What one side of the table shows: `kept` is the game mesh beside a trial, `both` one over the other. */
export type Side = "source" | "game" | "left" | "right" | "kept" | "both";

/** Layer of everything that is drawn as lines. */
export const LINES = 1;

/** What lies on the table, from where it is looked at, and what is under a pixel. */
export class TableScene {
  readonly camera = new PerspectiveCamera(FOV, 1, 0.01, 100);
  readonly orbit = new Orbit();
  readonly loader = new StreamLoader();
  readonly parts = new PartSet(this.loader);
  /** The parts of other revisions, at either side of the divider. */
  readonly others = {
    left: new PartSet(this.loader),
    right: new PartSet(this.loader),
  };
  readonly sheet = new SheetView(this.parts);
  readonly key = new DirectionalLight("#fff6e8", 1.3);
  state: ViewState | null = null;
  document: AssetDocument | null = null;
  readonly other: Record<"left" | "right", AssetDocument | null> = {
    left: null,
    right: null,
  };
  /** Of the canvas, px. */
  width = 1;
  height = 1;
  /** Whether the game mesh shows, where source and game mesh take turns. */
  blinked = false;
  /** Where the pointer is, −1 … 1 over the table. */
  pointer: [number, number] | null = null;

  constructor() {
    this.camera.layers.enable(LINES);
  }

  rects() {
    const { width, height, state } = this;
    return layoutOf(
      width,
      height,
      state?.sharing ?? { share: 0, turned: false, first: false },
    );
  }

  /** What of the table nothing lies over. */
  clear(): Rect {
    return clearOf(
      this.rects().table,
      this.state?.covered ?? { above: 0, below: 0 },
    );
  }

  clearSize(): number {
    const { width, height } = this.clear();
    return Math.min(width, height);
  }

  placeCamera(): void {
    this.orbit.placeIn(this.camera, this.rects().table, this.clear());
    const yaw = this.orbit.at?.yaw ?? 0;
    if (this.state?.pointerLight && this.pointer) {
      const [x, y] = this.pointer;
      // From where the pointer is, in front of the view: grazing at its edges.
      this.key.position
        .set(1.6 * x, 1.6 * y, 0.55)
        .applyQuaternion(this.camera.quaternion);
      return;
    }
    const light = ((this.state?.light ?? 35) * Math.PI) / 180 + yaw - 1.2;
    this.key.position.set(Math.sin(light), 1.1, Math.cos(light));
  }

  /** Whether source and game mesh are compared on the table. */
  compares(): boolean {
    const { state } = this;
    return (
      state?.show === "compare" &&
      !this.tries() &&
      this.hasGame() &&
      (this.document?.parts.some((part) => part.source) ?? false)
    );
  }

  /** Whether a detail is tried as geometry and as map. */
  tries(): boolean {
    return Object.keys(this.state?.without ?? {}).length > 0;
  }

  /** How many pixels on the left show the other side of a comparison. */
  split(table = this.rects().table): number {
    const { state } = this;
    const divided =
      state?.show === "revisions"
        ? this.other.left !== null
        : this.tries() || (this.compares() && state?.compareBy === "divider");
    return divided ? Math.round(table.width * state!.divider) : 0;
  }

  leftSide(): Side {
    if (this.state?.show === "revisions") return "left";
    return this.tries() ? "kept" : "source";
  }

  hasGame(): boolean {
    return this.document?.parts.some((part) => part.game) ?? false;
  }

  wholeBox(): Box3 {
    const box = new Box3()
      .setFromObject(this.parts.sources)
      .expandByObject(this.parts.games);
    if (box.isEmpty())
      for (const { hulls } of this.parts.views.values())
        box.expandByObject(hulls);
    return box;
  }

  visibleViews(): PartView[] {
    return [...this.parts.views.values()].filter(
      (view) => !this.state?.hidden.includes(view.name),
    );
  }

  /** Whether the source lies under a point of the table. */
  sourceAt(x: number): boolean {
    if (!this.hasGame()) return true;
    if (this.tries()) return false;
    if (this.compares())
      return this.state!.compareBy === "divider"
        ? x < this.rects().table.left + this.split()
        : this.state!.compareBy === "blink" && !this.blinked;
    return this.state?.show === "source";
  }

  cast(x: number, y: number, source: boolean): Hit | null {
    this.placeCamera();
    const [cx, cy] = this.onTable(x, y);
    return castAt(this.visibleViews(), this.camera, cx, cy, source);
  }

  onSheet(x: number, y: number) {
    const { sheet } = this.rects();
    return sheet && isWithin(sheet, x, y)
      ? this.sheet.faceAt(x, y, this.visibleViews())
      : undefined;
  }

  /** Pixels as −1 … 1 over the table. */
  onTable(x: number, y: number): [number, number] {
    const { left, top, width, height } = this.rects().table;
    return [(2 * (x - left)) / width - 1, 1 - (2 * (y - top)) / height];
  }
}
