import { run, one } from "../../../tests/one-part";
import { describe, expect, it } from "vitest";
import { cube } from "../../../tests/shapes";
import type { Asset } from "../../asset/asset";

describe("Finish", () => {
  it("sets the look of a material", async () => {
    const { asset } = await run("finish/look", one(cube()), {
      material: "surface",
      colour: "#112233",
      roughness: 0.2,
      metalness: 1,
    });
    expect(asset.looks).toEqual([
      { material: "surface", colour: "#112233", roughness: 0.2, metalness: 1 },
    ]);
    await expect(
      run("finish/look", one(cube()), { colour: "red" }),
    ).rejects.toThrow(/no colour/);
    await expect(
      run("finish/look", one(cube()), { material: "gold" }),
    ).rejects.toThrow(/no mesh has a material/);
  });

  it("replaces the look of a material, keeps the others, and sets all where none is named", async () => {
    const two: Asset = {
      ...one({ ...cube(), materials: ["brass", "wood"] }),
      looks: [
        { material: "wood", colour: "#553311", roughness: 0.8, metalness: 0 },
      ],
    };
    const brass = { material: "brass", colour: "#b57f1e", metalness: 1 };
    const { asset } = await run("finish/look", two, brass);
    expect(asset.looks.map(({ material }) => material).sort()).toEqual([
      "brass",
      "wood",
    ]);
    const again = (
      await run("finish/look", asset, { ...brass, colour: "#ccaa44" })
    ).asset;
    expect(again.looks).toHaveLength(2);
    expect(
      again.looks.find(({ material }) => material === "brass"),
    ).toMatchObject({ colour: "#ccaa44", metalness: 1 });
    expect(again.looks.find(({ material }) => material === "wood")).toEqual(
      two.looks[0],
    );
    const all = (await run("finish/look", again, { colour: "#808080" })).asset;
    expect(all.looks.map(({ colour }) => colour)).toEqual([
      "#808080",
      "#808080",
    ]);
  });

  it("leaves opacity as it is where nobody gives one", async () => {
    const glass = (await run("finish/look", one(cube()), { opacity: 0.3 }))
      .asset;
    expect(glass.looks[0].opacity).toBe(0.3);
    const red = (await run("finish/look", glass, { colour: "#993333" })).asset;
    expect(red.looks[0]).toMatchObject({ opacity: 0.3, colour: "#993333" });
  });
});
