import { describe, expect, it } from "vitest";
import { moved, sheetMesh, sphere, torus } from "../../tests/shapes";
import { createAsset, createPart } from "../asset/asset";
import { streamsOf, toDocument } from "../asset/document";
import { fromDocument } from "../asset/read-document";
import { previewOf } from "../decimate/kept-record";
import { DENSITY_LEFT } from "../decimate/density";
import type { Mesh } from "../mesh/mesh";
import { faceCount, triangleCount } from "../mesh/mesh";
import { run, lone, game } from "../../tests/reduce-run";

describe("density", () => {
  const ball = sphere(60, 80);
  const above = (mesh: Mesh) => {
    let count = 0;
    for (let t = 0; t < mesh.corners.length; t += 3) {
      const y = [0, 1, 2].reduce(
        (sum, k) => sum + mesh.positions[3 * mesh.corners[t + k] + 1],
        0,
      );
      if (y > 0) count++;
    }
    return count / (mesh.corners.length / 3);
  };
  const upper: number[] = [];
  for (let f = 0; f < faceCount(ball); f++)
    if (ball.positions[3 * ball.corners[3 * f] + 1] > 0.05) upper.push(f);
  const faces = [`body:${upper.join(",")}`];

  it("moves triangles to where finer was painted, and away from coarser", async () => {
    const shares: number[] = [];
    for (const wish of ["coarser", "plain", "finer"]) {
      const painted = (
        await run(lone(ball), "reduce/paint-density", {
          faces,
          wish,
          strength: 0.8,
        })
      ).asset;
      shares.push(
        above(
          game(
            (await run(painted, "reduce/to-budget", { triangles: 600 })).asset,
          ),
        ),
      );
    }
    expect(shares[0]).toBeLessThan(0.35);
    expect(shares[1]).toBeCloseTo(0.5, 1);
    expect(shares[2]).toBeGreaterThan(0.65);
  });

  it("leaves faces as they are where that is asked", async () => {
    const some = upper.slice(0, 200);
    const painted = (
      await run(lone(ball), "reduce/paint-density", {
        faces: [`body:${some.join(",")}`],
        wish: "leave",
      })
    ).asset;
    expect(painted.parts[0].source!.density![some[0]]).toBe(DENSITY_LEFT);
    const made = game(
      (await run(painted, "reduce/to-budget", { triangles: 800 })).asset,
    );
    const places = new Set<string>();
    const key = (mesh: Mesh, v: number) =>
      [0, 1, 2].map((k) => mesh.positions[3 * v + k].toFixed(3)).join(" ");
    made.corners.forEach((v) => places.add(key(made, v)));
    const kept = some.filter((f) =>
      [0, 1, 2].every((k) => places.has(key(ball, ball.corners[3 * f + k]))),
    );
    expect(kept.length).toBeGreaterThan(0.6 * some.length);
  });

  it("fades out, and is mirrored", async () => {
    const one = upper
      .filter((f) => ball.positions[3 * ball.corners[3 * f]] > 0.5)
      .slice(0, 20);
    const { asset, report } = await run(lone(ball), "reduce/paint-density", {
      faces: [`body:${one.join(",")}`],
      falloff: 300,
      mirror: true,
    });
    expect(Number(report.faces)).toBeGreaterThan(60);
    const values = asset.parts[0].source!.density!;
    const steps = new Set(values);
    expect(steps.size).toBeGreaterThan(4);
    let left = 0;
    values.forEach((value, f) => {
      if (value && ball.positions[3 * ball.corners[3 * f]] < -0.3) left++;
    });
    expect(left).toBeGreaterThan(20);
  });

  it("is computed from curvature and from joints; seen needs a look first", async () => {
    const bent = sheetMesh(30, (x) => (x > 0.5 ? 0.5 * (x - 0.5) : 0));
    const curved = (
      await run(lone(bent), "reduce/compute-density", { from: "curved" })
    ).asset;
    const values = curved.parts[0].source!.density!;
    const crest = [...values.keys()].filter(
      (f) => Math.abs(bent.positions[3 * bent.corners[3 * f]] - 0.5) < 0.04,
    );
    expect(Math.max(...crest.map((f) => values[f]))).toBeGreaterThan(150);
    const two = createAsset("two", [
      createPart("a", 0, { source: ball }),
      createPart("b", 1, { source: moved(sphere(20, 30, 0.5), 1.5, 0, 0) }),
    ]);
    const joint = (
      await run(two, "reduce/compute-density", { from: "joint", parts: ["a"] })
    ).asset;
    const near = joint.parts[0].source!.density!;
    expect(near.some((value) => value > 160)).toBe(true);
    expect(near.filter((value) => value > 128).length).toBeLessThan(
      0.2 * near.length,
    );
    await expect(
      run(two, "reduce/compute-density", { from: "seen" }),
    ).rejects.toThrow(/nobody has looked/);
  });
});

describe("a kept record", () => {
  it("survives being stored, and gives previews by part", async () => {
    const asset = createAsset("pair", [
      createPart("large", 0, { source: sphere(60, 80, 1) }),
      createPart("ring", 1, { source: moved(torus(60, 24), 3, 0, 0) }),
    ]);
    const done = (await run(asset, "reduce/to-budget", { triangles: 1000 }))
      .asset;
    const blobs = new Map<string, Uint8Array>();
    const document = toDocument(done, (hash, bytes) => blobs.set(hash, bytes));
    for (const { hash } of streamsOf(document))
      expect(blobs.has(hash)).toBe(true);
    const back = fromDocument(
      JSON.parse(JSON.stringify(document)) as typeof document,
      (hash) => blobs.get(hash)!,
    );
    const preview = previewOf(back.record!, 500, {}, { ring: 120 });
    const counts = [...preview.values()].map((mesh) => triangleCount(mesh!));
    expect(counts[0] + counts[1]).toBeLessThanOrEqual(500);
    expect(counts[0] + counts[1]).toBeGreaterThan(490);
    expect(counts[1]).toBeLessThanOrEqual(120);
  });

  it("reports a curve for all and for each part", async () => {
    const { report } = await run(lone(sphere(60, 80)), "reduce/to-budget", {
      triangles: 500,
    });
    const curve = report.curve as { triangles: number[]; rms: number[] };
    const at = curve.triangles.findIndex((n) => n >= 500);
    // The estimate is of the collapse alone; fitting only comes nearer.
    expect(Number(report.rms) * Number(report.diagonal)).toBeLessThan(
      1.2 * curve.rms[at],
    );
    expect((report.parts as { curve: unknown }[])[0].curve).toEqual(curve);
  });
});
