import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { run } from "../../../tests/one-part";
import { cube, moved, sphere } from "../../../tests/shapes";
import type { Asset } from "../../asset/asset";
import { createAsset, createPart } from "../../asset/asset";
import { MissingInputError } from "../../base/errors";
import type { Hull } from "../../mesh/hull";
import { hullFrame } from "../../mesh/hull-frame";
import { shapeOf } from "../../mesh/collider-shape";
import { translation } from "../../mesh/transform";
import { planesOf } from "../methods/containment";
import { volumeOf } from "../methods/convex-hull";

/** Two cubes a metre apart, and a repeat of the first. */
const crates = (): Asset =>
  createAsset("crates", [
    createPart("left", 0, { game: cube() }),
    createPart("right", 1, { game: moved(cube(), 2, 0, 0) }),
    createPart("again", 2, {
      game: moved(cube(), 0, 0, 3),
      repeat: { of: "left", matrix: translation(0, 0, 3) },
    }),
  ]);

const place = async (asset: Asset, options: object) =>
  (await run("collide/place", asset, options)).asset;
const hullsOf = (asset: Asset, part: string): Hull[] =>
  asset.parts.find(({ name }) => name === part)!.hulls;
const volume = ({ positions, triangles }: Hull) =>
  volumeOf(positions, triangles);
const names = (asset: Asset, part: string) =>
  hullsOf(asset, part).map(({ name }) => name);
const isConvex = (hull: Hull) => {
  const planes = planesOf(hull);
  const p = hull.positions;
  for (let k = 0; k < planes.length; k += 4)
    for (let i = 0; i < p.length; i += 3)
      if (
        planes[k] * p[i] + planes[k + 1] * p[i + 1] + planes[k + 2] * p[i + 2] >
        planes[k + 3] + 1e-3
      )
        return false;
  return true;
};

describe("a shape is placed", () => {
  it.each(["box", "sphere", "capsule", "prism", "hull"])(
    "round a part: %s",
    async (kind) => {
      const asset = await place(crates(), { parts: ["right"], kind });
      const [hull] = hullsOf(asset, "right");
      expect(hull.byHand).toBe(true);
      expect(hull.kind).toBe(kind === "hull" ? "convex" : kind);
      expect(volume(hull)).toBeGreaterThan(0.999);
      expect(isConvex(hull)).toBe(true);
    },
  );

  it("round several parts at once, and goes with the first", async () => {
    const asset = await place(crates(), { parts: ["left", "right"] });
    expect(volume(hullsOf(asset, "left")[0])).toBeCloseTo(16, 3);
    expect(hullsOf(asset, "right")).toEqual([]);
  });

  it.each(["box", "sphere", "capsule", "prism", "hull"])(
    "of a size at a place: %s",
    async (kind) => {
      const where = { x: 100, y: 200, z: -300, size: 50, kind };
      const asset = await place(crates(), { ...where, parts: ["left"] });
      const { centre, half } = hullFrame(hullsOf(asset, "left")[0]);
      [0.1, 0.2, -0.3].forEach((x, k) => expect(centre[k]).toBeCloseTo(x, 4));
      expect(Math.max(...half)).toBeCloseTo(0.025, 3);
    },
  );

  it("and a repeat of the part follows", async () => {
    const asset = await place(crates(), { parts: ["left"] });
    expect(hullFrame(hullsOf(asset, "again")[0]).centre[2]).toBeCloseTo(3, 5);
    await expect(place(crates(), { parts: ["again"] })).rejects.toThrow(
      /are repeats/,
    );
    await expect(
      run("collide/move", asset, { hulls: ["again_hull_1"] }),
    ).rejects.toThrow(/follows left, which again repeats/);
  });

  it("makes the stage's figures true again", async () => {
    const made = (await run("collide/hulls", crates(), { kind: "box" })).asset;
    expect(made.results.collide!.report.maxDistance).toBeCloseTo(0, 5);
    const next = await place(made, {
      parts: ["right"],
      size: 100,
      x: 9000,
      kind: "sphere",
    });
    const { operation, options, report, headline } = next.results.collide!;
    expect([operation, options.kind]).toEqual(["collide/hulls", "box"]);
    expect(report.maxDistance).toBeGreaterThan(6);
    expect(report.byHand).toEqual(["right"]);
    expect(headline).toBe("4 hulls");
  });
});

describe("a hull that is moved", () => {
  it("stays what it is: boxes boxes, balls balls, capsules capsules", async () => {
    await fc.assert(
      fc.asyncProperty(
        fc.constantFrom("box", "sphere", "capsule"),
        fc.tuple(
          ...Array.from({ length: 3 }, () =>
            fc.double({ min: -170, max: 170, noNaN: true }),
          ),
        ),
        fc.tuple(
          ...Array.from({ length: 3 }, () =>
            fc.double({ min: 0.4, max: 2.5, noNaN: true }),
          ),
        ),
        async (kind, [turnX, turnY, turnZ], [sizeX, sizeY, sizeZ]) => {
          const asset = await place(crates(), { parts: ["right"], kind });
          const hulls = names(asset, "right");
          const options = { turnX, turnY, turnZ, sizeX, sizeY, sizeZ, hulls };
          const [hull] = hullsOf(
            (await run("collide/move", asset, options)).asset,
            "right",
          );
          expect(shapeOf(hull).type).toBe(kind);
          expect(isConvex(hull)).toBe(true);
          const before = hullFrame(hullsOf(asset, "right")[0]);
          const after = hullFrame(hull);
          after.centre.forEach((x, k) =>
            expect(x).toBeCloseTo(before.centre[k], 3),
          );
        },
      ),
      { numRuns: 20, seed: 4 },
    );
  });

  it("goes as far as it is told, is turned about its axis, and sized along its own", async () => {
    const asset = await place(crates(), { parts: ["right"] });
    const hulls = names(asset, "right");
    const options = { moveX: 100, moveZ: -20, turnY: 90, sizeX: 3, hulls };
    const [hull] = hullsOf(
      (await run("collide/move", asset, options)).asset,
      "right",
    );
    const { centre } = hullFrame(hull);
    [2.1, 0, -0.02].forEach((x, k) => expect(centre[k]).toBeCloseTo(x, 5));
    const along = (k: number) => {
      const each = hull.positions.filter((_, i) => i % 3 === k);
      return Math.max(...each) - Math.min(...each);
    };
    expect(volume(hull)).toBeCloseTo(24, 3);
    // The turn takes what was made longer to another axis of the world.
    expect([along(0), along(1), along(2)].map((x) => x.toFixed(3))).toContain(
      "6.000",
    );
  });

  it("takes a copy along where that is asked, with a name of its own", async () => {
    const asset = await place(crates(), { parts: ["right"] });
    const hulls = names(asset, "right");
    const { asset: next } = await run("collide/move", asset, {
      hulls,
      moveX: 500,
      copy: true,
    });
    expect(names(next, "right")).toEqual(["right_hull_1", "right_hull_2"]);
    expect(hullsOf(next, "right")[0].positions).toEqual(
      hullsOf(asset, "right")[0].positions,
    );
  });

  it("with others turns about their middle", async () => {
    let asset = await place(crates(), { parts: ["left"] });
    asset = await place(asset, { parts: ["right"] });
    const hulls = [...names(asset, "left"), ...names(asset, "right")];
    const { asset: next } = await run("collide/move", asset, {
      hulls,
      turnY: 180,
      sizeX: 2,
    });
    expect(hullFrame(hullsOf(next, "left")[0]).centre[0]).toBeCloseTo(3, 4);
    expect(volume(hullsOf(next, "right")[0])).toBeCloseTo(64, 2);
  });

  it("that does not exist, or none at all, is said", async () => {
    await expect(run("collide/move", crates(), {})).rejects.toThrow(
      MissingInputError,
    );
    await expect(
      run("collide/remove", crates(), { hulls: ["nobody_hull_1"] }),
    ).rejects.toThrow(/no hull named nobody_hull_1; there are none yet/);
    const asset = await place(crates(), { parts: ["right"] });
    await expect(
      run("collide/remove", asset, { hulls: ["nobody_hull_1"] }),
    ).rejects.toThrow(/nobody_hull_1; there are right_hull_1$/);
  });

  it("of a locked part stays as it is", async () => {
    const asset = await place(crates(), { parts: ["right"] });
    const locked = {
      ...asset,
      parts: asset.parts.map((part) => ({ ...part, locked: true })),
    };
    for (const id of ["move", "split", "remove", "contact", "mirror"])
      await expect(
        run(`collide/${id}`, locked, { hulls: ["right_hull_1"] }),
      ).rejects.toThrow(/right, which is locked/);
    await expect(place(locked, { parts: ["right"] })).rejects.toThrow(/locked/);
  });
});

describe("hulls are", () => {
  it.each([
    ["asset", 0.5],
    ["origin", -2],
    ["own", 2],
  ])("mirrored about the %s", async (about, at) => {
    const asset = await place(
      createAsset("one", [createPart("right", 0, { game: cube() })]),
      { parts: ["right"], size: 200, x: about === "asset" ? -500 : 2000 },
    );
    const { asset: next } = await run("collide/mirror", asset, {
      hulls: names(asset, "right"),
      about,
    });
    expect(hullsOf(next, "right")).toHaveLength(2);
    const copy = hullsOf(next, "right")[1];
    expect(hullFrame(copy).centre[0]).toBeCloseTo(at, 5);
    expect(volume(copy)).toBeGreaterThan(0);
  });

  it("split into halves that hold the same, boxes into boxes", async () => {
    for (const kind of ["box", "sphere", "hull"])
      for (const across of ["longest", "second", "plane"]) {
        const asset = await place(crates(), { parts: ["right"], kind });
        const { asset: next } = await run("collide/split", asset, {
          hulls: names(asset, "right"),
          across,
          at: 30,
          normalX: 0.6,
          normalY: 0.8,
          pointX: 2000,
        });
        const [first, second, ...more] = hullsOf(next, "right");
        expect(more).toEqual([]);
        expect(first.name).not.toBe(second.name);
        expect(volume(first) + volume(second)).toBeCloseTo(
          volume(hullsOf(asset, "right")[0]),
          4,
        );
        expect(first.kind).toBe(
          kind === "box" && across !== "plane" ? "box" : "convex",
        );
        expect(isConvex(first) && isConvex(second)).toBe(true);
      }
  });

  it("not split by a plane that misses them, nor by one that faces nowhere", async () => {
    const asset = await place(crates(), { parts: ["right"] });
    const options = { hulls: names(asset, "right"), across: "plane" };
    await expect(
      run("collide/split", asset, { ...options, pointX: 9000 }),
    ).rejects.toThrow(/does not pass through right_hull_1/);
    await expect(
      run("collide/split", asset, { ...options, normalX: 0 }),
    ).rejects.toThrow(/faces nowhere/);
  });

  it("merged into one that holds them all", async () => {
    let asset = await place(crates(), { parts: ["left"] });
    asset = await place(asset, { parts: ["right"] });
    const hulls = [...names(asset, "left"), ...names(asset, "right")];
    await expect(
      run("collide/merge", asset, { hulls: hulls.slice(1) }),
    ).rejects.toThrow(/merging takes two/);
    const { asset: next } = await run("collide/merge", asset, { hulls });
    expect(hullsOf(next, "right")).toEqual([]);
    expect(hullsOf(next, "left")).toHaveLength(1);
    expect(volume(hullsOf(next, "left")[0])).toBeCloseTo(16, 3);
  });

  it("made another shape round the same, and taken away", async () => {
    const asset = await place(crates(), { parts: ["right"] });
    const hulls = names(asset, "right");
    const { asset: round } = await run("collide/reshape", asset, {
      hulls,
      kind: "sphere",
    });
    const [ball] = hullsOf(round, "right");
    expect([ball.kind, ball.name]).toEqual(["sphere", "right_hull_1"]);
    expect(volume(ball)).toBeGreaterThan(2);
    const { asset: none } = await run("collide/remove", round, { hulls });
    expect(hullsOf(none, "right")).toEqual([]);
    expect(none.results.collide!.headline).toBe("0 hulls");
  });
});

describe("making hulls", () => {
  const worked = async () => {
    const made = (await run("collide/hulls", crates(), { kind: "box" })).asset;
    return (
      await run("collide/move", made, { hulls: ["right_hull_1"], moveY: 100 })
    ).asset;
  };

  it("leaves parts alone whose hulls were worked by hand, and says so", async () => {
    const before = await worked();
    const { asset, report } = await run("collide/hulls", before, {
      kind: "sphere",
    });
    expect(hullsOf(asset, "right")).toEqual(hullsOf(before, "right"));
    expect(hullsOf(asset, "left")[0].kind).toBe("sphere");
    expect(report.byHand).toEqual(["right"]);
  });

  it("makes them anew where that is asked, but not when it is redone", async () => {
    const { asset } = await run("collide/hulls", await worked(), {
      kind: "sphere",
      handToo: true,
    });
    expect(hullsOf(asset, "right")[0].kind).toBe("sphere");
    expect(asset.results.collide!.options.handToo).toBe(false);
  });

  it("counts what stays among the hulls that are allowed", async () => {
    const one = createAsset("one", [
      createPart("ball", 0, { game: sphere(8, 12, 0.5) }),
      createPart("bell", 1, { game: moved(sphere(8, 12, 0.5), 2, 0, 0) }),
    ]);
    const placed = await place(one, { parts: ["ball"] });
    const { asset } = await run("collide/hulls", placed, { maxHulls: 2 });
    expect(hullsOf(asset, "ball")).toHaveLength(1);
    expect(hullsOf(asset, "bell")).toHaveLength(1);
  });
});

describe("a contact material", () => {
  const iced = async (contact: string) => {
    const asset = await place(
      createAsset("block", [createPart("block", 0, { game: cube() })]),
      { parts: ["block"] },
    );
    return (
      await run("collide/contact", asset, { hulls: ["block_hull_1"], contact })
    ).asset;
  };

  it("is kept with the hull, and can go again", async () => {
    const asset = await iced("rope");
    expect(hullsOf(asset, "block")[0].contact).toBe("rope");
    const { asset: plain } = await run("collide/contact", asset, {
      hulls: ["block_hull_1"],
    });
    expect("contact" in hullsOf(plain, "block")[0]).toBe(false);
  });

  it("is heeded by the drop test: what is icy slides farther", async () => {
    const slid = async (contact: string) => {
      const { report } = await run("collide/drop", await iced(contact), {});
      const trials = report.trials as { name: string; moved: number }[];
      return trials.find(({ name }) => name === "pushed")!.moved;
    };
    expect(await slid("ice")).toBeGreaterThan(2 * (await slid("rubber")));
  });
});
