import type { PerspectiveCamera } from "three";
import { Vector3 } from "three";
import type { Tool } from "../shared/view-types";
import type { FromView, How, ToView, ViewState } from "../shared/messages";
import type { Orbit } from "./orbit";
import type { PartSet } from "./part-set";
import type { PartView } from "./part-view";
import type { Hit } from "./picking";
import { FaceSelection } from "./selection";

/** What of the table choosing needs. */
export interface Chooser {
  readonly parts: PartSet;
  readonly orbit: Orbit;
  readonly camera: PerspectiveCamera;
  readonly tell: (message: FromView) => void;
  state(): ViewState | null;
  /** px of the shorter side of what the table frames into. */
  size(): number;
  /** Whether the source lies under a point of the table. */
  sourceAt(x: number): boolean;
  cast(x: number, y: number, source: boolean): Hit | null;
  /** Pixels as −1 … 1 over the table. */
  onTable(x: number, y: number): [number, number];
  visibleViews(): PartView[];
  /** The face whose UVs lie under a point beside the table; undefined where that is the table. */
  onSheet(
    x: number,
    y: number,
  ): { view: PartView; face: number } | null | undefined;
  /** What is chosen has changed. */
  chosen(): void;
}

/** What clicks and strokes on the table choose: parts, edges, faces. */
export class Choosing {
  readonly selection = new FaceSelection();

  constructor(private readonly at: Chooser) {}

  /** Chooses what the page says, on meshes that may have changed; what was chosen here is no news. */
  reset(state: Pick<ViewState, "facesOf" | "faces">): void {
    this.selection.set(state.facesOf, state.faces, this.at.parts.views);
    this.tellFaces();
  }

  pick({ x, y, what, add }: Extract<ToView, { kind: "pick" }>): void {
    if (what === "edge") {
      const hit = this.at.sourceAt(x) ? null : this.at.cast(x, y, false);
      const [edge = null] =
        hit && this.selectionOn("game")
          ? this.selection.edgesAt(hit.view, "edge", hit.point)
          : [];
      this.at.tell({ kind: "edge", edge });
      return;
    }
    const onSheet = this.at.onSheet(x, y);
    const part =
      onSheet === undefined
        ? (this.at.cast(x, y, this.at.sourceAt(x))?.view.name ?? null)
        : (onSheet?.view.name ?? null);
    this.at.tell({ kind: "picked", part, add });
  }

  /** Chooses on this mesh from now on; what was chosen on the other one is dropped. */
  private selectionOn(which: "source" | "game"): true {
    if (this.selection.which !== which)
      this.selection.set(which, {}, this.at.parts.views);
    return true;
  }

  choose(message: Extract<ToView, { kind: "choose" }>): void {
    const { x, y, tool, how } = message;
    const flat = this.at.onSheet(x, y);
    if (flat !== undefined) {
      this.chooseFlat(flat, how, message.tool);
      return;
    }
    const source = this.at.sourceAt(x);
    const hit = this.at.cast(x, y, source);
    this.selectionOn(source ? "source" : "game");
    const mesh = hit && this.selection.meshOf(hit.view);
    if (tool === "edge" || tool === "loop" || tool === "ring") {
      const found = hit
        ? this.selection.edgesAt(hit.view, tool, hit.point)
        : [];
      const before = how === "only" ? [] : (this.at.state()?.edges ?? []);
      const edges =
        how === "remove"
          ? before.filter((edge) => !found.includes(edge))
          : [...new Set([...before, ...found])];
      const state = this.at.state();
      // The next message of a stroke may come before the page has answered.
      if (state) state.edges = edges;
      this.at.tell({ kind: "edges", edges });
      this.tellFaces();
      return;
    }
    if (!hit || !mesh) {
      if (how === "only" && tool !== "paint")
        this.selection.set(this.selection.which, {}, this.at.parts.views);
    } else {
      const reach =
        tool === "paint"
          ? this.at.orbit.metres(message.reach, hit.distance, this.at.size())
          : message.reach;
      this.selection.choose(
        hit.view,
        tool,
        hit.view.faceOf(mesh, hit.triangle),
        hit.point,
        how,
        reach,
      );
    }
    this.tellFaces();
  }

  /** On the sheet a click takes the whole island, or the face with the face tool. */
  private chooseFlat(
    hit: { view: PartView; face: number } | null,
    how: How,
    tool: Tool,
  ): void {
    this.selectionOn("game");
    if (!hit) {
      if (how === "only") this.selection.set("game", {}, this.at.parts.views);
    } else
      this.selection.choose(
        hit.view,
        tool === "face" ? "face" : "island",
        hit.face,
        new Vector3(),
        how,
        0,
      );
    this.tellFaces();
  }

  chooseInBox(message: Extract<ToView, { kind: "box" }>): void {
    this.selectionOn(this.at.sourceAt(message.from[0]) ? "source" : "game");
    const [ax, ay] = this.at.onTable(...message.from);
    const [bx, by] = this.at.onTable(...message.to);
    this.selection.chooseInBox(
      this.at.visibleViews(),
      this.at.camera,
      {
        left: Math.min(ax, bx),
        right: Math.max(ax, bx),
        bottom: Math.min(ay, by),
        top: Math.max(ay, by),
      },
      message.how,
    );
    this.tellFaces();
  }

  alter(what: Extract<ToView, { kind: "alter" }>["what"]): void {
    this.selection.alter(what, this.at.visibleViews());
    this.tellFaces();
  }

  /** Tells what is chosen now that a stroke is over. */
  settle(): void {
    this.at.tell({
      kind: "settled",
      faces: this.selection.faces(),
      of: this.selection.which,
    });
  }

  private tellFaces(): void {
    const faces = this.selection.faces();
    this.at.tell({
      kind: "faces",
      faces,
      of: this.selection.which,
      figures: this.selection.figures(
        this.at.state()?.sheetWidth ?? 1,
        this.at.state()?.sheetHeight ?? 1,
      ),
    });
    this.at.chosen();
  }
}
