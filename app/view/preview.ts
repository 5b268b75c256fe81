import { previewOf } from "../../core/decimate/kept-record";
import type { KeptRecord } from "../../core/decimate/kept-record";
import type { AssetDocument, StreamRef } from "../../core/asset/document";
import { recordFrom } from "../../core/asset/read-document";
import type { Mesh } from "../../core/mesh/mesh";
import { faceCount, triangleCount } from "../../core/mesh/mesh";
import { joinMeshes, keepFaces } from "../../core/mesh/change-faces";
import { fromRanges } from "../../core/base/ranges";
import { thinLoops } from "../../core/remesh/thin-loops";
import { withoutDetail } from "../../core/asset/leave-out";
import { budgetOf } from "../../core/asset/asset";
import type { PartStandIn } from "../../core/asset/asset";
import { facesStandingFor } from "../../core/mesh/standing-for";
import type { PartView } from "./part-view";
import type { StreamLoader } from "./stream-loader";
import type { FromView, ViewState } from "../shared/messages";
import type { PartSet } from "./part-set";

/** What is shown in place of the game meshes. */
export interface Tried {
  /** Triangles over all parts, 0 for none. */
  budget: number;
  /** Budgets of single parts tried beside it. */
  own: Readonly<Record<string, number>>;
  thin: ViewState["thin"];
  /** Faces of the source to do without, by part. */
  without: Readonly<Record<string, string>>;
  /** Level of detail, 0 for the game meshes. */
  level: number;
}

/** A mesh with the shapes that stand in a part's game mesh. */
function withShapes(
  mesh: Mesh,
  { sourceMesh: source, gameMesh: game }: PartView,
  standIns: readonly PartStandIn[],
): Mesh {
  if (!source || !game) return mesh;
  const shapes = standIns.flatMap(({ faces, of }) =>
    of === faceCount(source)
      ? keepFaces(game, facesStandingFor(source, fromRanges(faces, of), game))
      : [],
  );
  return shapes.length ? joinMeshes([mesh, ...shapes]) : mesh;
}

/** The level that a distance asks for. @param points metres from which each further level sets in */
export const levelAt = (points: readonly number[], distance: number) =>
  points.filter((from) => from <= distance).length;

/** Game meshes at another budget, sought in the kept record, or at another level of detail. */
export class Preview {
  private shown = "";
  private record: { from: object; kept: KeptRecord } | null = null;
  private turn = 0;

  constructor(
    private readonly loader: StreamLoader,
    private readonly parts: PartSet,
    private readonly tell: (message: FromView) => void,
  ) {}

  /** The document has changed: what was shown is gone. */
  forget(): void {
    this.shown = "";
  }

  /** @returns whether anything changed */
  async show(document: AssetDocument, wanted: Tried): Promise<boolean> {
    const key = JSON.stringify(wanted);
    if (key === this.shown) return false;
    this.shown = key;
    const turn = ++this.turn;
    if (Object.keys(wanted.without).length) {
      this.showWithout(wanted.without);
      return true;
    }
    if (wanted.thin) {
      this.showThinned(wanted.thin);
      return true;
    }
    const tries = wanted.budget > 0 || Object.keys(wanted.own).length > 0;
    if (tries && document.record) {
      const kept = await this.load(document);
      if (turn !== this.turn) return false;
      const start = performance.now();
      const own: Record<string, number> = {};
      const cap: Record<string, number> = {};
      let settled = 0;
      for (const part of document.parts) {
        const tried = wanted.own[part.name];
        // What shapes stand for is not in the record; they cost what they do at any budget.
        const shapes = part.standIns.reduce(
          (sum, each) => sum + each.triangles,
          0,
        );
        const whole = tried ?? budgetOf(document, part);
        const budget = whole && Math.max(4, whole - shapes);
        if (budget) (part.capped && !tried ? cap : own)[part.name] = budget;
        const recorded = kept.parts.some(
          ({ name, twin }) => name === part.name || twin === part.name,
        );
        if (!part.repeat)
          settled += recorded ? shapes : (part.game?.triangles ?? 0);
      }
      const budget = wanted.budget || document.brief.triangles;
      const found = previewOf(kept, budget - settled, own, cap);
      let triangles = settled;
      for (const view of this.parts.views.values()) {
        const mesh = found.get(view.name);
        if (mesh) triangles += triangleCount(mesh);
        const part = document.parts.find(({ name }) => name === view.name);
        view.showPreview(mesh && withShapes(mesh, view, part?.standIns ?? []));
      }
      this.tell({
        kind: "preview",
        triangles,
        milliseconds: performance.now() - start,
        level: 0,
      });
      return true;
    }
    const start = performance.now();
    let triangles = 0;
    for (const part of document.parts) {
      const level = part.levels[wanted.level - 1];
      const mesh: Mesh | undefined = level && (await this.loader.mesh(level));
      if (turn !== this.turn) return false;
      triangles += mesh ? triangleCount(mesh) : (part.game?.triangles ?? 0);
      this.parts.views.get(part.name)?.showPreview(mesh);
    }
    this.tell({
      kind: "preview",
      triangles,
      milliseconds: performance.now() - start,
      level: wanted.level,
    });
    return true;
  }

  /** Details of the source left to the map. */
  private showWithout(faces: Readonly<Record<string, string>>): void {
    for (const view of this.parts.views.values()) {
      const { sourceMesh: source, gameMesh: game } = view;
      const own = faces[view.name];
      if (!own || !source) {
        view.showPreview(undefined);
        continue;
      }
      const marks = fromRanges(own, faceCount(source));
      view.showPreview(withoutDetail({ source, game }, marks, true).mesh);
    }
  }

  /** Meshes with some of their loops gone. */
  private showThinned(thin: NonNullable<ViewState["thin"]>): void {
    const start = performance.now();
    let triangles = 0;
    let loops = 0;
    let moved = 0;
    for (const view of this.parts.views.values()) {
      const mesh = thin.mesh === "source" ? view.sourceMesh : view.gameMesh;
      const own = thin.triangles[view.name];
      if (!own || !mesh) {
        triangles += view.gameMesh ? triangleCount(view.gameMesh) : 0;
        view.showPreview(undefined);
        continue;
      }
      const thinned = thinLoops(mesh, own, Infinity, () => {});
      triangles += triangleCount(thinned.mesh);
      loops += thinned.loops;
      moved = Math.max(moved, thinned.error);
      view.showPreview(thinned.mesh);
    }
    this.tell({
      kind: "preview",
      triangles,
      milliseconds: performance.now() - start,
      level: 0,
      loops,
      moved,
    });
  }

  private async load(document: AssetDocument): Promise<KeptRecord> {
    const from = document.record!;
    if (
      this.record &&
      JSON.stringify(this.record.from) === JSON.stringify(from)
    )
      return this.record.kept;
    const loaded = new Map<string, Awaited<ReturnType<StreamLoader["load"]>>>();
    await Promise.all(
      Object.values(from.streams).map(async (ref: StreamRef) =>
        loaded.set(ref.hash + ref.kind, await this.loader.load(ref)),
      ),
    );
    const kept = recordFrom(
      from,
      (ref) => loaded.get(ref.hash + ref.kind) as Float32Array,
    );
    this.record = { from, kept };
    return kept;
  }
}
