import { Group } from "three";
import type { AssetDocument, PartDocument } from "../../core/asset/document";
import { movedApart } from "../../core/space/apart";
import type { Bounds } from "../../core/space/bounds";
import { boundsOf, diagonalOf } from "../../core/space/bounds";
import type { StreamLoader } from "./stream-loader";
import { PartView } from "./part-view";

/** The parts of one revision as they are drawn, in groups by what they are. */
export class PartSet {
  readonly views = new Map<string, PartView>();
  readonly sources = new Group();
  readonly games = new Group();
  readonly hulls = new Group();
  readonly islands = new Group();
  /** Diagonal of the asset, metres: what line lengths are measured by. */
  size = 0.5;
  private loads = 0;
  private isApart = false;

  constructor(private readonly loader: StreamLoader) {}

  /**
   * Draws another document; parts that did not change stay.
   * @param each called after every part
   * @returns whether it went through, or another document came meanwhile
   */
  async update(
    document: AssetDocument,
    each: (part: PartDocument, done: number, view: PartView) => void,
    before: (part: PartDocument, done: number) => void = () => {},
  ): Promise<boolean> {
    const turn = ++this.loads;
    const present = new Set(document.parts.map((part) => part.name));
    for (const [name, view] of this.views)
      if (!present.has(name)) {
        for (const group of [
          view.source,
          view.game,
          view.preview,
          view.hulls,
          view.sheet,
        ])
          group.removeFromParent();
        this.views.delete(name);
      }
    this.size = sizeOf(document);
    let done = 0;
    let hulls = 0;
    for (const part of document.parts) {
      if (turn !== this.loads) return false;
      before(part, done);
      each(part, ++done, await this.updatePart(part, hulls));
      hulls += part.hulls.length;
    }
    return turn === this.loads;
  }

  /** Draws parts apart, by a share of the way at which none reaches another; what is only baked goes along. */
  moveApart(share: number): void {
    if (!share && !this.isApart) return;
    this.isApart = share > 0;
    const views = [...this.views.values()];
    const holders = views.filter(({ gameMesh }) => gameMesh);
    const boxOf = (view: PartView) =>
      boundsOf(
        ...[view.drawnSource, view.gameMesh].flatMap(
          (mesh) => mesh?.positions ?? [],
        ),
      );
    const boxes = holders.map(boxOf);
    const ways = share ? movedApart(boxes) : boxes.map(() => [0, 0, 0]);
    for (const view of views) {
      const at = holders.includes(view)
        ? holders.indexOf(view)
        : nearestBox(boxOf(view), boxes);
      const [x, y, z] = (ways[at] ?? [0, 0, 0]).map((way) => share * way);
      for (const group of [view.source, view.game, view.preview, view.hulls])
        group.position.set(x, y, z);
    }
  }

  /** @param firstHull how many hulls the parts before have: each has a colour of its own */
  private async updatePart(
    part: PartDocument,
    firstHull: number,
  ): Promise<PartView> {
    const key = JSON.stringify([
      part.source?.streams,
      part.game?.streams,
      part.tried?.streams,
      part.hulls.map(({ name, positions }) => [name, positions.hash]),
      part.hulls.length ? firstHull : 0,
      part.colour,
    ]);
    let view = this.views.get(part.name);
    if (view?.key === key) return view;
    if (!view) {
      view = new PartView(part.name, this.views.size + 1, () =>
        this.views.values(),
      );
      this.views.set(part.name, view);
      this.sources.add(view.source);
      this.games.add(view.game, view.preview);
      this.hulls.add(view.hulls);
      this.islands.add(view.sheet);
    }
    view.setColour(part.colour);
    await view.update(part, this.loader, this.size, firstHull);
    view.key = key;
    return view;
  }
}

/** The box that lies nearest about the middle of another; of those that hold it the smallest. */
function nearestBox(box: Bounds, boxes: readonly Bounds[]): number {
  const middle = box.min.map((x, k) => (x + box.max[k]) / 2);
  const costs = boxes.map((each) => {
    const gap = Math.hypot(
      ...middle.map((x, k) => Math.max(each.min[k] - x, x - each.max[k], 0)),
    );
    return gap + 1e-3 * diagonalOf(each);
  });
  return costs.indexOf(Math.min(...costs));
}

function sizeOf(document: AssetDocument): number {
  const survey = document.results.intake?.report.sizeMetres as
    number[] | undefined;
  return survey?.length ? Math.hypot(...survey) : 0.5;
}
