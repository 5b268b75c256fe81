import { Group } from "three";
import type { AssetDocument, PartDocument } from "../../core/asset/document";
import type { StreamLoader } from "./geometry";
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

  /** @param firstHull how many hulls the parts before have: each has a colour of its own */
  private async updatePart(
    part: PartDocument,
    firstHull: number,
  ): Promise<PartView> {
    const key = JSON.stringify([
      part.source?.streams,
      part.game?.streams,
      part.tried?.streams,
      part.hulls.map((hull) => hull.positions.hash),
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

function sizeOf(document: AssetDocument): number {
  const survey = document.results.intake?.report.sizeMetres as
    number[] | undefined;
  return survey?.length ? Math.hypot(...survey) : 0.5;
}
