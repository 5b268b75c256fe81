import { Vector3 } from "three";
import type { FromView, ToView } from "../shared/messages";
import type { PartView } from "./part-view";
import { nearestVertex } from "./picking";
import type { TrialWorker } from "./seam-trials";
import { SeamTrials } from "./seam-trials";
import type { TableScene } from "./table-scene";
import { Tracing } from "./tracing";

/** The hand that draws seams on the table: waypoints, regions, and how the part would lay out with them. */
export class SeamTracer {
  private readonly tracing = new Tracing(() => this.table.parts.size);
  /** How seams that are being drawn would lay out, found beside the view. */
  private readonly trials = new SeamTrials<PartView>(
    () =>
      new Worker(new URL("./seam-trial.worker.ts", import.meta.url), {
        type: "module",
      }) as TrialWorker,
    (view, { uvs, seams, changed, islands, stretch, milliseconds }) => {
      const { gameMesh } = view;
      if (!gameMesh) return;
      this.table.sheet.showUnfolded(view, {
        mesh: { ...gameMesh, uvs, seams },
        changed,
      });
      this.post({
        kind: "tried",
        part: view.name,
        islands,
        stretch,
        milliseconds,
      });
      this.draw();
    },
  );
  /** Where a seam or a waypoint was last asked to follow the pointer to. */
  private following: Extract<ToView, { kind: "trace" }> | null = null;

  constructor(
    private readonly table: TableScene,
    private readonly post: (message: FromView) => void,
    private readonly draw: () => void,
  ) {}

  /** What is drawn of the seam. */
  get object() {
    return this.tracing.object;
  }

  /** Forgets what was drawn. */
  drop(): void {
    this.tracing.clear();
    this.trials.drop();
    this.post({ kind: "trace", points: 0, edges: [], refused: "" });
  }

  /** Follows the pointer with a seam, sets, moves and takes out waypoints, or shows the region under it. */
  trace(message: Extract<ToView, { kind: "trace" }>): void {
    const { what, x, y } = message;
    if (what === "hover" || what === "move") {
      // Once all that has come meanwhile is done, and only the newest.
      if (!this.following) setTimeout(() => this.follow(), 0);
      this.following = message;
      return;
    }
    this.following = null;
    if (what === "grab") {
      this.post({ kind: "held", point: this.grabDot(x, y) });
      return;
    }
    let refused = "";
    if (what === "clear") this.tracing.clear();
    else if (what === "back") this.tracing.back();
    else if (what === "remove") {
      const at = this.grabDot(x, y);
      if (at >= 0) this.tracing.remove(at);
      else refused = "there is no waypoint here";
    } else refused = this.traceAt(what, x, y);
    this.tellTrace(refused);
  }

  /** Sets a waypoint or shows a region. @returns why nothing was set, or nothing */
  private traceAt(what: "point" | "region", x: number, y: number): string {
    if (this.table.sourceAt(x))
      return "this is the source: seams are drawn on the game mesh";
    const at = this.vertexAt(x, y);
    if (!at) return "there is no game mesh under the pointer";
    if (what === "point") return this.tracing.add(at.view, at.vertex) ?? "";
    return this.tracing.region(at.view, at.face)
      ? ""
      : "no cap, pocket or lobe begins here";
  }

  private vertexAt(x: number, y: number) {
    const hit = this.table.sourceAt(x) ? null : this.table.cast(x, y, false);
    const mesh = hit?.view.gameMesh;
    if (!hit || !mesh) return null;
    const face = hit.view.faceOf(mesh, hit.triangle);
    return {
      view: hit.view,
      face,
      vertex: nearestVertex(mesh, face, hit.point),
    };
  }

  private grabDot(x: number, y: number): number {
    this.table.placeCamera();
    const { left, top, width, height } = this.table.rects().table;
    return this.tracing.grab(
      (px, py, pz) => {
        const at = new Vector3(px, py, pz).project(this.table.camera);
        return [
          left + ((at.x + 1) / 2) * width,
          top + ((1 - at.y) / 2) * height,
        ];
      },
      x,
      y,
    );
  }

  private follow(): void {
    const { following } = this;
    this.following = null;
    if (!following) return;
    const at = this.vertexAt(following.x, following.y);
    if (!at) return;
    if (following.what === "hover") this.tracing.hover(at.view, at.vertex);
    else {
      this.tracing.moveHeld(at.view, at.vertex);
      this.tellTrace("");
    }
    this.draw();
  }

  private tellTrace(refused: string): void {
    this.post({
      kind: "trace",
      points: this.tracing.count,
      edges: this.tracing.edges(),
      refused,
    });
    this.trySeams();
  }

  /** Lays a part out with the seams that are being drawn, on the sheet as soon as it is found. */
  trySeams(): void {
    const { state } = this.table;
    const wanted = state?.triesSeams
      ? this.tracing.wanted(state.edges, this.table.parts.views)
      : null;
    if (!state || !wanted) {
      this.trials.drop();
      this.table.sheet.showUnfolded(null, null);
      return;
    }
    const { view, mesh, key } = wanted;
    this.trials.want(`${view.key} ${key}`, view, mesh, {
      width: state.sheetWidth,
      height: state.sheetHeight,
    });
  }
}
