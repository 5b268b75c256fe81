import type { AssetAnswer, Rig } from "./rig";
import { digest } from "./rig";

/** What clients were told of an asset, and so may count on. */
export interface KnownAsset {
  id: number;
  /** Digest of the document of every revision that was seen. */
  revisions: Map<number, string>;
  /** Budgets whose setting was acknowledged: each is in the history for good. */
  budgets: Set<number>;
  deleteAsked: boolean;
  deleted: boolean;
}

/** The model: what has been promised so far. */
export class Model {
  readonly assets: KnownAsset[] = [];
  /** Jobs that were accepted, and the state last seen of each that ended. */
  readonly jobs = new Map<number, { asset: number; ended: string | null }>();
  private budgets = 1000;

  pick(at: number): KnownAsset | null {
    const there = this.assets.filter((each) => !each.deleted);
    return there.length ? there[at % there.length] : null;
  }

  pickJob(at: number): number | null {
    const ids = [...this.jobs.keys()].slice(-12);
    return ids.length ? ids[at % ids.length] : null;
  }

  nextBudget(): number {
    return ++this.budgets;
  }

  /** Takes an answer that shows an asset for a promise. */
  saw(rig: Rig, answer: AssetAnswer): KnownAsset {
    let known = this.assets.find((each) => each.id === answer.id);
    if (!known) {
      known = {
        id: answer.id,
        revisions: new Map(),
        budgets: new Set(),
        deleteAsked: false,
        deleted: false,
      };
      this.assets.push(known);
    }
    const seen = digest(answer.document);
    const before = known.revisions.get(answer.revision);
    if (before && before !== seen)
      rig.fault(
        "damaged",
        `revision ${answer.revision} shows two different documents`,
      );
    known.revisions.set(answer.revision, seen);
    return known;
  }
}
