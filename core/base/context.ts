import { CancelledError } from "./errors";

/** What a piece of work may ask of whoever runs it. */
export interface Context {
  /** Says how far the work is (0 … 1) and what it is at. Cheap: the host thins it out. */
  progress(share: number, step: string): void;
  /** Throws CancelledError once somebody asked to stop. Cheap enough for outer loops. */
  check(): void;
  /** Runs the same kernel over many slices, on as many threads as the host has. */
  workers: Workers;
}

/** Splits work over threads. Slices and their results do not depend on how many threads there are. */
export interface Workers {
  /**
   * Calls `kernels[kernel](shared, slice)` for each slice and returns the results in order.
   * `shared` is copied to each thread once; typed arrays over SharedArrayBuffer are not copied.
   */
  run<S, R>(
    kernel: string,
    shared: object,
    slices: readonly S[],
    done?: (finished: number) => void,
  ): Promise<R[]>;
}

/** A context without a host: one thread, no progress, never cancelled. */
export function plainContext(
  kernels: Record<string, (shared: never, slice: never) => unknown> = {},
): Context {
  return {
    progress() {},
    check() {},
    workers: {
      async run(kernel, shared, slices, done) {
        return slices.map((slice, i) => {
          const result = kernels[kernel](shared as never, slice as never);
          done?.(i + 1);
          return result as never;
        });
      },
    },
  };
}

/** A context for one step of a longer piece of work: its progress fills the given span. */
export function spanOf<C extends Pick<Context, "progress">>(
  context: C,
  from: number,
  to: number,
): C & Pick<Context, "progress"> {
  return {
    ...context,
    progress: (share, step) =>
      context.progress(from + (to - from) * share, step),
  };
}

/**
 * `check` for a flag that another thread sets.
 * @param flag one number over shared memory, not 0 once somebody asked to stop; length 1
 */
export function checkFlag(flag: Int32Array | null): () => void {
  return () => {
    if (flag && Atomics.load(flag, 0) !== 0) throw new CancelledError();
  };
}
