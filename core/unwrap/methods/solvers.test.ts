import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { seededRandom } from "../../base/random";
import { BlockSolver } from "./flat/block-solver";
import { SparseSolver } from "./sparse";

/** A random pattern of the upper triangle: per column its rows, the column itself last. */
function patternOf(n: number, share: number, random: () => number) {
  const starts = new Int32Array(n + 1);
  const rows: number[] = [];
  for (let c = 0; c < n; c++) {
    for (let r = 0; r < c; r++) if (random() < share) rows.push(r);
    rows.push(c);
    starts[c + 1] = rows.length;
  }
  return { starts, rows: Int32Array.from(rows) };
}

const cases = fc.record({
  n: fc.integer({ min: 1, max: 40 }),
  share: fc.double({ min: 0, max: 0.6, noNaN: true }),
  seed: fc.integer({ min: 1, max: 1e6 }),
});

describe("the solver of symmetric systems", () => {
  it("gives back what a random definite matrix was multiplied with", () => {
    fc.assert(
      fc.property(cases, ({ n, share, seed }) => {
        const random = seededRandom(seed);
        const { starts, rows } = patternOf(n, share, random);
        const entries = Float64Array.from(rows, () => random() - 0.5);
        const full = Array.from({ length: n }, () => new Float64Array(n));
        for (let c = 0; c < n; c++)
          for (let p = starts[c]; p < starts[c + 1]; p++)
            full[c][rows[p]] = full[rows[p]][c] = entries[p];
        // More on the diagonal than all else of the row has: definite.
        for (let c = 0; c < n; c++) {
          const p = starts[c + 1] - 1;
          const rest = full[c].reduce(
            (s, x, r) => s + (r === c ? 0 : Math.abs(x)),
            0,
          );
          full[c][c] = entries[p] = 0.1 + rest;
        }
        const x = Float64Array.from({ length: n }, () => random() * 4 - 2);
        const b = Float64Array.from(full, (row) =>
          row.reduce((s, a, r) => s + a * x[r], 0),
        );
        const solver = new SparseSolver(n, starts, rows);
        expect(solver.factor(entries)).toBe(true);
        solver.solve(b);
        for (let i = 0; i < n; i++) expect(b[i]).toBeCloseTo(x[i], 8);
      }),
      { seed: 11, numRuns: 200 },
    );
  });

  it("says where a matrix is not definite", () => {
    const solver = new SparseSolver(
      2,
      Int32Array.from([0, 1, 3]),
      Int32Array.from([0, 0, 1]),
    );
    expect(solver.factor(Float64Array.from([1, 2, 1]))).toBe(false);
    expect(solver.factor(Float64Array.from([1, 0.5, 1]))).toBe(true);
  });
});

describe("the solver of systems in blocks of two", () => {
  it("gives back what a random definite matrix was multiplied with", () => {
    fc.assert(
      fc.property(cases, ({ n, share, seed }) => {
        const random = seededRandom(seed);
        const { starts, rows } = patternOf(n, share, random);
        const entries = new Float64Array(4 * rows.length).map(
          () => random() - 0.5,
        );
        const full = Array.from(
          { length: 2 * n },
          () => new Float64Array(2 * n),
        );
        for (let c = 0; c < n; c++)
          for (let p = starts[c]; p < starts[c + 1]; p++) {
            const r = rows[p];
            if (r === c) entries[4 * p + 2] = entries[4 * p + 1];
            for (let i = 0; i < 2; i++)
              for (let j = 0; j < 2; j++)
                full[2 * r + i][2 * c + j] = full[2 * c + j][2 * r + i] =
                  entries[4 * p + 2 * i + j];
          }
        for (let c = 0; c < n; c++)
          for (let i = 0; i < 2; i++) {
            const at = 2 * c + i;
            const rest = full[at].reduce(
              (s, x, k) => s + (k === at ? 0 : Math.abs(x)),
              0,
            );
            full[at][at] = entries[4 * (starts[c + 1] - 1) + 3 * i] =
              0.1 + rest;
          }
        const x = Float64Array.from({ length: 2 * n }, () => random() * 4 - 2);
        const b = Float64Array.from(full, (row) =>
          row.reduce((s, a, k) => s + a * x[k], 0),
        );
        const solver = new BlockSolver(n, starts, rows);
        expect(solver.factor(entries)).toBe(true);
        solver.solve(b);
        for (let i = 0; i < 2 * n; i++) expect(b[i]).toBeCloseTo(x[i], 8);
      }),
      { seed: 13, numRuns: 200 },
    );
  });

  it("says where a matrix is not definite", () => {
    const solver = new BlockSolver(
      1,
      Int32Array.from([0, 1]),
      Int32Array.from([0]),
    );
    expect(solver.factor(Float64Array.from([1, 2, 2, 1]))).toBe(false);
    expect(solver.factor(Float64Array.from([2, 1, 1, 2]))).toBe(true);
  });
});
