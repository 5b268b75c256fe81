import { describe, expect, it } from "vitest";
import { sphere } from "../../tests/shapes";
import { createAsset, createPart } from "../asset/asset";
import { plainContext } from "../base/context";
import { findOperation } from "../operations";
import { runOperation } from "../route";
import { seededRandom } from "../base/random";
import type { PartNoise } from "../survey/operations/take-noise-out";
import { denoised } from "./denoise";
import type { Mesh } from "./mesh";
import { meshFromTriangles } from "./change-faces";

const OPTIONS = { edge: 35, rounds: 8, check() {}, progress() {} };

/** A cube of edge 2 with n × n squares a side, two triangles each. */
function fineCube(n: number): Mesh {
  const names = new Map<string, number>();
  const points: number[] = [];
  const triangles: number[] = [];
  const at = (p: number[]) => {
    const key = p.join();
    let v = names.get(key);
    if (v === undefined) {
      names.set(key, (v = points.length / 3));
      points.push(...p);
    }
    return v;
  };
  for (let axis = 0; axis < 3; axis++)
    for (const side of [-1, 1])
      for (let i = 0; i < n; i++)
        for (let j = 0; j < n; j++) {
          const corner = (a: number, b: number) => {
            const p = [0, 0, 0];
            p[axis] = side;
            p[(axis + 1) % 3] = (2 * (i + a)) / n - 1;
            p[(axis + 2) % 3] = (2 * (j + b)) / n - 1;
            return at(p);
          };
          const [a, b, c, d] = [
            corner(0, 0),
            corner(1, 0),
            corner(1, 1),
            corner(0, 1),
          ];
          triangles.push(
            ...(side > 0 ? [a, b, c, a, c, d] : [a, c, b, a, d, c]),
          );
        }
  return meshFromTriangles(
    new Float32Array(points),
    new Uint32Array(triangles),
  );
}

function shaken(mesh: Mesh, by: number): Mesh {
  const random = seededRandom(9);
  return {
    ...mesh,
    positions: mesh.positions.map((x) => x + by * (2 * random() - 1)),
  };
}

/** Root mean square of how far the vertices are off the cube's surface. */
function offCube(p: Float32Array): number {
  let sum = 0;
  for (let v = 0; v < p.length; v += 3)
    sum += (Math.max(...[0, 1, 2].map((k) => Math.abs(p[v + k]))) - 1) ** 2;
  return Math.sqrt((3 * sum) / p.length);
}

describe("taking noise out", () => {
  it("brings a shaken cube back to its planes and keeps its edges", () => {
    const cube = fineCube(16);
    const noisy = shaken(cube, 0.02);
    const smooth = denoised(noisy, OPTIONS);
    expect(offCube(smooth)).toBeLessThan(0.4 * offCube(noisy.positions));
    // Vertices of the edges still lie on both planes.
    let worst = 0;
    for (let v = 0; v < smooth.length; v += 3) {
      const on = [0, 1, 2].filter((k) => Math.abs(cube.positions[v + k]) === 1);
      if (on.length > 1)
        for (const k of on)
          worst = Math.max(worst, Math.abs(Math.abs(smooth[v + k]) - 1));
    }
    expect(worst).toBeLessThan(0.04);
  });

  it("leaves what is smooth nearly alone, and open borders wholly", () => {
    const ball = sphere(60, 80, 1);
    const smooth = denoised(ball, OPTIONS);
    for (let i = 0; i < smooth.length; i++)
      expect(Math.abs(smooth[i] - ball.positions[i])).toBeLessThan(0.01);
    const open: Mesh = {
      ...ball,
      faceStarts: ball.faceStarts.slice(0, ball.faceStarts.length - 400),
      corners: ball.corners.slice(
        0,
        ball.faceStarts[ball.faceStarts.length - 401],
      ),
    };
    const noisy = shaken(open, 0.01);
    const moved = denoised(noisy, OPTIONS);
    const uses = new Map<string, number>();
    for (let f = 0; f + 1 < open.faceStarts.length; f++)
      for (let c = open.faceStarts[f]; c < open.faceStarts[f + 1]; c++) {
        const next =
          c + 1 < open.faceStarts[f + 1] ? c + 1 : open.faceStarts[f];
        const key = [open.corners[c], open.corners[next]]
          .sort((a, b) => a - b)
          .join();
        uses.set(key, (uses.get(key) ?? 0) + 1);
      }
    const border = [...uses]
      .filter(([, count]) => count === 1)
      .flatMap(([key]) => key.split(",").map(Number));
    expect(border.length).toBeGreaterThan(10);
    for (const v of border)
      expect([...moved.subarray(3 * v, 3 * v + 3)]).toEqual([
        ...noisy.positions.subarray(3 * v, 3 * v + 3),
      ]);
  });

  it("is tried first: says the largest move and where, and changes nothing", async () => {
    const source = shaken(fineCube(12), 0.02);
    const asset = createAsset("noise", [createPart("cube", 0, { source })]);
    const run = (options: object) =>
      runOperation(
        findOperation("survey/take-noise-out"),
        asset,
        options,
        plainContext(),
      );
    const tried = await run({ only: true });
    expect(tried.asset.parts[0].source).toBe(source);
    const [noise] = tried.report.parts as PartNoise[];
    expect(noise.places.length).toBeGreaterThan(0);
    const done = await run({});
    const [part] = done.asset.parts;
    let largest = 0;
    for (let v = 0; v < source.positions.length; v += 3)
      largest = Math.max(
        largest,
        Math.hypot(
          ...[0, 1, 2].map(
            (k) => part.source!.positions[v + k] - source.positions[v + k],
          ),
        ),
      );
    expect(noise.largest).toBeCloseTo(largest, 6);
    expect(done.report.largest).toBeCloseTo(largest, 6);
    expect(part.dense).toBe(source);
    expect(part.skinned).toBe(false);
  });

  it("gives the same bytes each time, and stops where that is wanted", () => {
    const noisy = shaken(fineCube(6), 0.02);
    expect(denoised(noisy, OPTIONS)).toEqual(denoised(noisy, OPTIONS));
    expect(() =>
      denoised(noisy, {
        ...OPTIONS,
        check() {
          throw new Error("stopped");
        },
      }),
    ).toThrow("stopped");
  });
});
