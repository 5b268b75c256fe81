import fc from "fast-check";
import { expect, it } from "vitest";
import { OptionsError } from "../../base/errors";
import type { NamePatterns } from "./names";
import { examplesOf, namesBy, PLAIN_NAMES, wrongPatterns } from "./names";

const named = (patterns: Partial<NamePatterns>, asset = "Lamp 3") =>
  namesBy("ship/archive", asset, { ...PLAIN_NAMES, ...patterns });

it("fills the places of patterns", () => {
  const names = named({
    nameFile: "SM_{asset}",
    nameLevel: "{part}-L{level:2}",
    nameHull: "UC {asset} {part} {number:3}",
    nameTile: "T_{map}_{tile}",
  });
  expect(names.file()).toBe("SM_Lamp 3");
  expect(names.level("base", 2)).toBe("base-L02");
  expect(names.hull("base", 7)).toBe("UC Lamp 3 base 007");
  expect(names.map("ao", null)).toBe("Lamp 3_ao.png");
  expect(names.map("ao", 11)).toBe("T_ao_1012.png");
  expect(named({}).partFile("base")).toBe("Lamp 3_base");
});

it.each([
  [{ nameMesh: "{asset}" }, "nameMesh", "{part} has to be in it"],
  [{ nameLevel: "{part}" }, "nameLevel", "{level} has to be in it"],
  [{ nameHull: "{part}" }, "nameHull", "{number} has to be in it"],
  [{ nameFile: "{part}" }, "nameFile", "{part} has no meaning here"],
  [{ nameFile: "{}" }, "nameFile", "{} has no meaning"],
  [{ nameFile: "{asset:9}" }, "nameFile", "has no meaning"],
  [{ nameFile: "{asset" }, "nameFile", "no partner"],
  [{ nameFile: "a/{asset}" }, "nameFile", "can't hold"],
  [{ nameFile: "../x" }, "nameFile", "can't hold"],
  [{ nameFile: "" }, "nameFile", "begin or end"],
  [{ nameFile: ".{asset}" }, "nameFile", "begin or end"],
] as const)("says what is wrong with %j", (patterns, key, words) => {
  expect(wrongPatterns({ ...PLAIN_NAMES, ...patterns })[key]).toContain(words);
  expect(() => named(patterns)).toThrow(OptionsError);
  expect(examplesOf("a", "b", { ...PLAIN_NAMES, ...patterns })).toBe(null);
});

it("never makes a path, whatever the asset and its parts are called", () => {
  fc.assert(
    fc.property(fc.string(), fc.string(), (asset, part) => {
      const names = named({}, asset);
      for (const name of [
        names.file(),
        names.partFile(part),
        names.levelFile(part, 1),
        names.map("normal", 0),
      ]) {
        expect(name).not.toMatch(/[/\\:*?"<>|]|^\.\.?$/);
        expect(name.length).toBeGreaterThan(0);
      }
    }),
  );
});

it("shows an example of each pattern", () => {
  expect(examplesOf("Lamp", "base", PLAIN_NAMES)).toEqual({
    nameFile: "Lamp.glb",
    namePartFile: "Lamp_base.glb",
    nameMesh: "base",
    nameLevel: "base_lod1",
    nameHull: "base_hull_3",
    nameMap: "Lamp_normal.png",
    nameTile: "Lamp_normal.1011.png",
  });
});
