import { previewOf } from "../../core/asset/kept-record";
import type { KeptRecord } from "../../core/asset/kept-record";
import type { AssetDocument, StreamRef } from "../../core/asset/document";
import { recordFrom } from "../../core/asset/document";
import type { Mesh } from "../../core/mesh/mesh";
import { triangleCount } from "../../core/mesh/mesh";
import { budgetOf } from "../../core/asset/asset";
import type { StreamLoader } from "./geometry";
import type { FromView } from "./messages";
import type { PartSet } from "./part-set";

/** What is shown in place of the game meshes. */
export interface Tried {
  /** Triangles over all parts, 0 for none. */
  budget: number;
  /** Level of detail, 0 for the game meshes. */
  level: number;
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
    if (wanted.budget > 0 && document.record) {
      const kept = await this.load(document);
      if (turn !== this.turn) return false;
      const start = performance.now();
      const own: Record<string, number> = {};
      const cap: Record<string, number> = {};
      let settled = 0;
      for (const part of document.parts) {
        const budget = budgetOf(document, part);
        if (budget) (part.capped ? cap : own)[part.name] = budget;
        const recorded = kept.parts.some(
          ({ name, twin }) => name === part.name || twin === part.name,
        );
        if (!recorded && !part.repeat) settled += part.game?.triangles ?? 0;
      }
      const found = previewOf(kept, wanted.budget - settled, own, cap);
      let triangles = settled;
      for (const view of this.parts.views.values()) {
        const mesh = found.get(view.name);
        if (mesh) triangles += triangleCount(mesh);
        view.showPreview(mesh);
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
