import { OptionsError } from "../../base/errors";
import { safeName } from "../../formats/raw-mesh";
import { udimOf } from "../../mesh/tiles";

/** How things are called in a delivery: words with places in braces. */
export interface NamePatterns {
  /** Files, and files of one part where each has its own; without an ending. */
  nameFile: string;
  namePartFile: string;
  /** Meshes, their levels of detail and their hulls, as nodes and objects. */
  nameMesh: string;
  nameLevel: string;
  nameHull: string;
  /** Map files, and those of one of several sheets; without an ending. */
  nameMap: string;
  nameTile: string;
}

export const PLAIN_NAMES: NamePatterns = {
  nameFile: "{asset}",
  namePartFile: "{asset}_{part}",
  nameMesh: "{part}",
  nameLevel: "{part}_lod{level}",
  nameHull: "{part}_hull_{number}",
  nameMap: "{asset}_{map}",
  nameTile: "{asset}_{map}.{tile}",
};

type Place = "asset" | "part" | "level" | "number" | "map" | "tile";
/** What each pattern may say, and what it must so that no two things get one name. */
const SAYS: Record<
  keyof NamePatterns,
  { may: readonly Place[]; must: readonly Place[] }
> = {
  nameFile: { may: ["asset"], must: [] },
  namePartFile: { may: ["asset", "part"], must: ["part"] },
  nameMesh: { may: ["asset", "part"], must: ["part"] },
  nameLevel: { may: ["asset", "part", "level"], must: ["part", "level"] },
  nameHull: { may: ["asset", "part", "number"], must: ["part", "number"] },
  nameMap: { may: ["asset", "map"], must: ["map"] },
  nameTile: { may: ["asset", "map", "tile"], must: ["map", "tile"] },
};

/** `{number:2}` is a number of at least two digits. */
const BRACED = /\{([^{}]*)\}/g;
const TOLD = /^([a-z]+)(?::([1-4]))?$/;

/** What is wrong with patterns, by their names; empty where nothing is. */
export function wrongPatterns(patterns: NamePatterns): Record<string, string> {
  const wrong: Record<string, string> = {};
  for (const key of Object.keys(SAYS) as (keyof NamePatterns)[]) {
    const { may, must } = SAYS[key];
    const said: string[] = [];
    const rest = patterns[key].replace(BRACED, (_, inside: string) => {
      said.push(TOLD.exec(inside)?.[1] ?? inside);
      return "";
    });
    const allowed = may.map((place) => `{${place}}`).join(", ");
    const stranger = said.find((place) => !may.includes(place as Place));
    const lacking = must.find((place) => !said.includes(place));
    if (stranger !== undefined)
      wrong[key] = `{${stranger}} has no meaning here; ${allowed} have`;
    else if (/[{}]/.test(rest)) wrong[key] = "a brace has no partner";
    else if (lacking)
      wrong[key] =
        `{${lacking}} has to be in it, or several things would have one name`;
    else if (/[/\\:*?"<>|\p{Cc}]/u.test(rest))
      wrong[key] = "it holds what names of files can't hold";
    else if (/^[.\s]|\s$/.test(patterns[key]) || !patterns[key])
      wrong[key] = "names don't begin or end like that";
  }
  return wrong;
}

/** Names by checked patterns. @throws OptionsError for wrong ones */
export function namesBy(
  operation: string,
  asset: string,
  patterns: NamePatterns,
) {
  const wrong = wrongPatterns(patterns);
  if (Object.keys(wrong).length) throw new OptionsError(operation, wrong);
  const fill = (
    key: keyof NamePatterns,
    values: Partial<Record<Place, string | number>>,
  ) =>
    patterns[key].replace(BRACED, (_, inside: string) => {
      const [, place, digits] = TOLD.exec(inside)!;
      const value = { asset, ...values }[place as Place]!;
      return typeof value === "number"
        ? String(value).padStart(Number(digits ?? 1), "0")
        : value;
    });
  const file = (
    key: keyof NamePatterns,
    { part, ...values }: Partial<Record<Place, string | number>>,
  ) =>
    fill(key, {
      ...values,
      asset: safeName(asset, "asset"),
      ...(part !== undefined && { part: safeName(String(part), "part") }),
    });
  return {
    file: () => file("nameFile", {}),
    partFile: (part: string) => file("namePartFile", { part }),
    mesh: (part: string) => fill("nameMesh", { part }),
    /** @param level from 1 on */
    level: (part: string, level: number) => fill("nameLevel", { part, level }),
    /** The file of a level, where levels have files of their own. */
    levelFile: (of: string, level: number) =>
      file("nameLevel", { part: of, level }),
    /** @param number from 1 on */
    hull: (part: string, number: number) => fill("nameHull", { part, number }),
    /** @param tile of several sheets; null where there is one */
    map: (map: string, tile: number | null) =>
      `${
        tile === null
          ? file("nameMap", { map })
          : file("nameTile", { map, tile: udimOf(tile) })
      }.png`,
  };
}

export type Names = ReturnType<typeof namesBy>;

/** Each pattern with a name that it gives, for whoever writes one. */
export function examplesOf(
  asset: string,
  part: string,
  patterns: NamePatterns,
): Record<keyof NamePatterns, string> | null {
  if (Object.keys(wrongPatterns(patterns)).length) return null;
  const names = namesBy("", asset, patterns);
  return {
    nameFile: `${names.file()}.glb`,
    namePartFile: `${names.partFile(part)}.glb`,
    nameMesh: names.mesh(part),
    nameLevel: names.level(part, 1),
    nameHull: names.hull(part, 3),
    nameMap: names.map("normal", null),
    nameTile: names.map("normal", 10),
  };
}
