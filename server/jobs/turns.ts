import { BusyError } from "../store/errors";

/**
 * Who may change an asset. Short changes take turns, in the order they came. A job that is accepted holds its asset
 * from that moment until it has ended, and changes are refused before any work, never after it.
 */
export class Turns {
  private readonly lines = new Map<number, Promise<void>>();
  private readonly held = new Set<number>();
  private readonly doomed = new Set<number>();

  /** A short change, in its turn. @throws BusyError while a job holds the asset, or it is being deleted */
  async take<T>(asset: number, work: () => Promise<T>): Promise<T> {
    this.refuseWhileHeld(asset);
    const before = this.lines.get(asset) ?? Promise.resolve();
    let done = () => {};
    const mine = new Promise<void>((resolve) => (done = resolve));
    const turn = before.then(() => mine);
    this.lines.set(asset, turn);
    await before;
    try {
      this.refuseWhileHeld(asset);
      return await work();
    } finally {
      done();
      if (this.lines.get(asset) === turn) this.lines.delete(asset);
    }
  }

  /** Holds the asset for a job after `work`, in its turn, unless that throws. */
  hold<T>(asset: number, work: () => Promise<T>): Promise<T> {
    return this.take(asset, async () => {
      const result = await work();
      this.held.add(asset);
      return result;
    });
  }

  holds(asset: number): boolean {
    return this.held.has(asset);
  }

  release(asset: number): void {
    this.held.delete(asset);
  }

  /** Refuses everybody else from now on, and waits for the change that is under way. @throws BusyError */
  async doom(asset: number): Promise<void> {
    if (this.doomed.has(asset)) this.refuseWhileHeld(asset);
    this.doomed.add(asset);
    await this.lines.get(asset);
  }

  spare(asset: number): void {
    this.doomed.delete(asset);
  }

  private refuseWhileHeld(asset: number): void {
    if (this.doomed.has(asset))
      throw new BusyError("the asset is being deleted");
    if (this.held.has(asset))
      throw new BusyError(
        "a job is under way on this asset: wait for it or cancel it first",
      );
  }
}
