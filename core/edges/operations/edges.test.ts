import { run, one } from "../../../tests/one-part";
import { describe, expect, it } from "vitest";
import { cube, sphere } from "../../../tests/shapes";

describe("Edges", () => {
  it("are hard above an angle, and by hand", async () => {
    const { asset, report } = await run("edges/hard-by-angle", one(cube()), {
      angle: 45,
    });
    expect(report.hardEdges).toBe(12);
    const soft = await run("edges/mark", asset, {
      edges: ["thing:0-1", "thing:4-0"],
      to: "smooth",
    });
    expect(soft.report.hardEdges).toBe(10);
    const back = await run("edges/mark", soft.asset, {
      edges: ["thing:1-0"],
      to: "hard",
    });
    expect(back.report.hardEdges).toBe(11);
    await expect(
      run("edges/mark", asset, { edges: ["thing:0-7"] }),
    ).rejects.toThrow(/no edge between vertices 0 and 7/);
    await expect(
      run("edges/mark", asset, { edges: ["lid:0-1"] }),
    ).rejects.toThrow(/no edge of a game mesh/);
  });

  it("are smooth but hard at island borders in one action", async () => {
    await expect(run("edges/hard-at-islands", one(cube()))).rejects.toThrow(
      /unwrap first/,
    );
    const { asset } = await run("unwrap/unwrap", one(sphere(10, 12)), {
      size: 256,
    });
    const done = await run("edges/hard-at-islands", asset);
    expect(done.report.hardWithoutSplit).toBe(0);
    expect(done.report.hardEdges).toBeGreaterThan(0);
  });
});
