import { PartsOptions } from "../../asset/parts-options";
import type { Asset, Part } from "../../asset/asset";
import { createPart, partOf } from "../../asset/asset";
import { mapParts } from "../../asset/parts";
import { MissingInputError, OptionsError } from "../../base/errors";
import { distinctNames, safeName } from "../../formats/raw-mesh";
import { joinMeshes } from "../../mesh/change-faces";
import { defineOperation, field } from "../../asset/operation";
import {
  IDENTITY,
  multiply,
  translation,
  transformMesh,
} from "../../mesh/transform";

/** The parts that are meant, none of them locked. @throws MissingInputError */
function meant(asset: Asset, names: readonly string[], least: number): Part[] {
  const parts = names.length
    ? names.map((name) => partOf(asset, name))
    : [...asset.parts];
  const locked = parts.find((part) => part.locked);
  if (locked) throw new MissingInputError(`${locked.name} is locked`);
  if (parts.length < least)
    throw new MissingInputError(
      least === 1 ? "no part is chosen" : `choose at least ${least} parts`,
    );
  return parts;
}

/** A name no part has yet. */
export const freeName = (asset: Asset, base: string): string =>
  distinctNames([...asset.parts.map((part) => part.name), base]).at(-1)!;

class JoinOptions extends PartsOptions {
  @field({
    kind: "text",
    label: "Name",
    help: "Name of the joined part; empty takes the first one's.",
    max: 80,
  })
  name = "";
}

export const joinParts = defineOperation({
  id: "survey/join-parts",
  stage: "survey",
  title: "Join parts",
  about:
    "Makes one part of several: source with source, game mesh with game mesh.",
  runs: "instant",
  takes: "source",
  makesResult: false,
  Options: JoinOptions,
  run(asset, options) {
    const parts = meant(asset, options.parts, 2);
    const [first] = parts;
    const gone = new Set(parts.map((part) => part.name));
    const name = options.name.trim()
      ? safeName(options.name.trim(), first.name)
      : first.name;
    const join = (which: "source" | "game") => {
      const meshes = parts.flatMap((part) => part[which] ?? []);
      return meshes.length ? joinMeshes(meshes) : null;
    };
    const joined: Part = {
      ...first,
      name,
      repeat: null,
      source: join("source"),
      game: join("game"),
      dense: null,
      hulls: parts.flatMap((part) => part.hulls),
    };
    const next = asset.parts.flatMap((part) => {
      if (part.name === first.name) return [joined];
      return gone.has(part.name) ? [] : [part];
    });
    if (next.filter((part) => part.name === name).length > 1)
      throw new OptionsError("survey/join-parts", {
        name: `there is another part "${name}"`,
      });
    return {
      asset: { ...asset, parts: next },
      headline: "",
      report: {
        joined: parts.length,
        summary: `${parts.length} parts are ${name} now`,
      },
    };
  },
});

class DuplicateOptions extends PartsOptions {
  @field({
    kind: "number",
    label: "Beside by",
    help: "How far to the right the copies are put.",
    unit: "m",
    min: -1000,
    max: 1000,
  })
  offset = 0;

  @field({
    kind: "flag",
    label: "As repeats",
    help: "Copies follow the part they were made of.",
  })
  linked = false;
}

export const duplicateParts = defineOperation({
  id: "survey/duplicate-parts",
  stage: "survey",
  title: "Duplicate parts",
  about: "Makes copies of parts, of their own or following the original.",
  runs: "instant",
  takes: "source",
  makesResult: false,
  Options: DuplicateOptions,
  run(asset, options) {
    const parts = meant(asset, options.parts, 1);
    const matrix = translation(options.offset, 0, 0);
    let next = asset;
    for (const part of parts) {
      const place = (mesh: Part["source"]) =>
        mesh && transformMesh(mesh, matrix);
      const copy: Part = {
        ...createPart(freeName(next, part.name), next.parts.length),
        group: part.group,
        source: place(part.source),
        game: place(part.game),
        repeat: options.linked
          ? {
              of: part.repeat?.of ?? part.name,
              matrix: multiply(matrix, part.repeat?.matrix ?? IDENTITY),
            }
          : null,
      };
      next = { ...next, parts: [...next.parts, copy] };
    }
    return {
      asset: next,
      headline: "",
      report: {
        copies: parts.length,
        summary: `${parts.length} parts duplicated`,
      },
    };
  },
});

export const deleteParts = defineOperation({
  id: "survey/delete-parts",
  stage: "survey",
  title: "Delete parts",
  about: "Takes chosen parts out of the asset, with their meshes and hulls.",
  runs: "instant",
  takes: "source",
  makesResult: false,
  Options: PartsOptions,
  run(asset, options) {
    if (!options.parts.length) throw new MissingInputError("no part is chosen");
    const parts = meant(asset, options.parts, 1);
    const gone = new Set(parts.map((part) => part.name));
    return {
      asset: {
        ...asset,
        parts: asset.parts.filter((part) => !gone.has(part.name)),
      },
      headline: "",
      report: { deleted: gone.size, summary: `${gone.size} parts deleted` },
    };
  },
});

class RenameOptions extends PartsOptions {
  @field({
    kind: "text",
    label: "Find",
    help: "What in the names is replaced; * stands for anything, empty takes the whole name.",
    max: 80,
  })
  find = "";

  @field({
    kind: "text",
    label: "Put",
    help: "What is put there; # becomes a running number, ## one of two digits.",
    max: 80,
  })
  put = "part ##";
}

export const renameParts = defineOperation({
  id: "survey/rename-parts",
  stage: "survey",
  title: "Rename parts",
  about:
    "Renames many parts by a pattern; names that would clash get a number.",
  runs: "instant",
  takes: "source",
  makesResult: false,
  Options: RenameOptions,
  run(asset, options) {
    const parts = meant(asset, options.parts, 1);
    const chosen = new Set(parts.map((part) => part.name));
    const names = renamed(
      asset.parts.map((part) => part.name),
      chosen,
      options.find,
      options.put,
    );
    const became = new Map(asset.parts.map((part, i) => [part.name, names[i]]));
    const next = mapParts(asset, (part) => ({
      ...part,
      name: became.get(part.name)!,
      repeat: part.repeat && {
        ...part.repeat,
        of: became.get(part.repeat.of) ?? part.repeat.of,
      },
    }));
    const count = [...became].filter(([from, to]) => from !== to).length;
    return {
      asset: next,
      headline: "",
      report: { renamed: count, summary: `${count} parts renamed` },
    };
  },
});

/** Names after renaming the chosen ones; the others keep theirs. */
export function renamed(
  names: readonly string[],
  chosen: ReadonlySet<string>,
  find: string,
  put: string,
): string[] {
  const pattern = new RegExp(
    find
      ? find
          .split("*")
          .map((word) => word.replace(/[.+?^${}()|[\]\\]/g, "\\$&"))
          .join(".*")
      : "^.*$",
    "i",
  );
  const used = new Set(names.filter((name) => !chosen.has(name)));
  let number = 0;
  return names.map((name) => {
    if (!chosen.has(name) || !pattern.test(name)) {
      if (!chosen.has(name)) return name;
      const kept = distinctNames([...used, name]).at(-1)!;
      used.add(kept);
      return kept;
    }
    number++;
    const counted = put.replace(/#+/g, (marks) =>
      String(number).padStart(marks.length, "0"),
    );
    const fresh = safeName(
      name.replace(pattern, () => counted),
      name,
    );
    const free = distinctNames([...used, fresh]).at(-1)!;
    used.add(free);
    return free;
  });
}

class GroupOptions extends PartsOptions {
  @field({
    kind: "text",
    label: "Group",
    help: "Name of the group; empty takes the parts out of theirs.",
    max: 80,
  })
  group = "";
}

export const groupParts = defineOperation({
  id: "survey/group-parts",
  stage: "survey",
  title: "Group parts",
  about: "Puts parts into a group, which is chosen and hidden together.",
  runs: "instant",
  takes: "source",
  makesResult: false,
  Options: GroupOptions,
  run(asset, options) {
    const parts = new Set(meant(asset, options.parts, 1));
    const group = options.group.trim()
      ? safeName(options.group.trim(), "group")
      : "";
    return {
      asset: mapParts(asset, (part) =>
        parts.has(part) ? { ...part, group } : part,
      ),
      headline: "",
      report: {
        parts: parts.size,
        summary: group
          ? `${parts.size} parts are in ${group}`
          : `${parts.size} parts are in no group`,
      },
    };
  },
});
