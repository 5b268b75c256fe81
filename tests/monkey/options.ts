import type { Asset, Part } from "../../core/asset/asset";
import type { Mesh } from "../../core/mesh/mesh";
import { faceCount } from "../../core/mesh/mesh";
import { indicesOf, toRanges } from "../../core/base/ranges";
import type { Field, Operation } from "../../core/asset/operation";
import { fieldsOf } from "../../core/asset/operation";
import type { Dice } from "./assets";

/** Options that decide over minutes and gigabytes, kept small. */
const MOST: Record<string, number> = {
  size: 256,
  sheetSize: 256,
  sheetHeight: 256,
  width: 256,
  screen: 480,
  rays: 16,
  samples: 2,
  cells: 24,
  seconds: 0,
  rounds: 4,
  tiles: 3,
  sheets: 3,
  views: 60,
  count: 4,
  copies: 4,
  triangles: 600,
  maxHulls: 12,
};
const LEVELS = new Set(["survey/subdivide"]);

/** Words for options of text, by their names; others get a few letters. */
const WORDS: Record<string, readonly string[]> = {
  levels: ["", "90, 20", "40", "nonsense"],
  colour: ["#336699", "#ffffff", "green"],
  name: ["", "rig", "part 1", "a name", "../x"],
  at: ["", "0", "0.1, 0.2"],
  sourcePattern: ["", "*_a"],
  gamePattern: ["", "*_b"],
};

/** Options of an operation as somebody might give them: most of them sound, many left as they come. */
export function randomOptions(
  operation: Operation,
  asset: Asset,
  dice: Dice,
): Record<string, unknown> {
  const options: Record<string, unknown> = {};
  const which = dice.often(0.5) ? "source" : "game";
  for (const field of fieldsOf(operation)) {
    const picks = ["parts", "edges", "faces", "hulls"].includes(field.kind);
    if (!picks && field.name !== "mesh" && dice.often(0.5)) {
      // Costly ones are small where nobody gives them, too.
      const most = MOST[field.name];
      if (most !== undefined && Number(field.default) > most)
        options[field.name] = most;
      continue;
    }
    if (picks && dice.often(0.3)) continue;
    options[field.name] = valueFor(field, operation, asset, which, dice);
  }
  return options;
}

function valueFor(
  field: Field,
  operation: Operation,
  asset: Asset,
  which: "source" | "game",
  dice: Dice,
): unknown {
  const { kind, name, min = 0, max = 100 } = field;
  const limited = Math.min(
    max,
    MOST[name] ?? (LEVELS.has(operation.id) ? 1 : Infinity),
  );
  switch (kind) {
    case "integer":
      return dice.often(0.3)
        ? Math.min(limited, Math.max(min, Number(field.default) || min))
        : dice.whole(min, Math.max(min, Math.min(limited, min + 300)));
    case "number": {
      // The least there may be, what it is by itself, or something near that.
      if (dice.often(0.15)) return Math.max(min, -limited);
      const near = Math.min(limited, Number(field.default) || 0);
      const span = dice.one([0, 0.1, 1, 10]) * (dice.random() - 0.3);
      return Math.min(limited, Math.max(min, near + span));
    }
    case "choice":
      return name === "mesh"
        ? which
        : dice.one(field.choices!.map(({ value }) => value));
    case "choices":
      return field
        .choices!.map(({ value }) => value)
        .filter(() => dice.often(0.5));
    case "flag":
      return dice.often(0.5);
    case "text":
      return dice.one(WORDS[name] ?? ["", "part 1", "oak"]);
    case "parts":
      return asset.parts.filter(() => dice.often(0.5)).map((part) => part.name);
    case "hulls":
      return asset.parts
        .flatMap(({ hulls }) => hulls.map((hull) => hull.name))
        .filter(() => dice.often(0.4));
    case "faces":
      return inSomePart(asset, which, dice, (part, mesh) => [
        `${part.name}:${toRanges(
          indicesOf(
            new Uint8Array(faceCount(mesh)).map(() =>
              dice.often(0.3) ? 1 : 0,
            ),
          ),
        )}`,
      ]).filter((each) => !each.endsWith(":"));
    case "edges":
      return inSomePart(asset, which, dice, (part, mesh) =>
        Array.from({ length: dice.whole(1, 4) }, () => {
          const f = dice.whole(0, faceCount(mesh) - 1);
          const [s, e] = [mesh.faceStarts[f], mesh.faceStarts[f + 1]];
          const c = dice.whole(s, e - 1);
          const next = c + 1 < e ? c + 1 : s;
          return `${part.name}:${mesh.corners[c]}-${mesh.corners[next]}`;
        }),
      ).filter((each, i, all) => all.indexOf(each) === i);
  }
}

function inSomePart(
  { parts }: Asset,
  which: "source" | "game",
  dice: Dice,
  pick: (part: Part, mesh: Mesh) => string[],
): string[] {
  const able = parts.filter((part) => part[which] && faceCount(part[which]));
  if (!able.length) return [];
  const part = dice.one(able);
  return pick(part, part[which]!);
}
