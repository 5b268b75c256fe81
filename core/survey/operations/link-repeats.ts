import type { Asset, Part } from "../../asset/asset";
import { createPart, partOf, requireMeshes } from "../../asset/asset";
import { spaced } from "../../base/wording";
import { mapParts } from "../../asset/parts";
import { MissingInputError } from "../../base/errors";
import { faceCount } from "../../mesh/mesh";
import { keepFaces } from "../../mesh/change-faces";
import { defineOperation, field } from "../../asset/operation";
import { piecesIn, piecesOf } from "../../asset/pieces";
import type { FoundFamily } from "../methods/repeat-families";
import { familiesOf } from "../methods/repeat-families";

class LinkOptions {
  @field({
    kind: "parts",
    label: "Parts",
    help: "Only families with a piece in these parts; empty for all.",
  })
  parts: string[] = [];

  @field({
    kind: "number",
    label: "Tolerance",
    help: "How much copies may differ.",
    unit: "mm",
    min: 0.001,
    max: 100,
  })
  tolerance = 0.1;
}

/** Most parts that linking may make: more could not be overlooked in the ledger. */
const MOST_PARTS = 600;

export const linkRepeats = defineOperation({
  id: "survey/link-repeats",
  stage: "survey",
  title: "Work repeats once",
  about:
    "Makes pieces that are the same one part, worked once, and parts that repeat it where it stands; all follow it.",
  runs: "heavy",
  takes: "source",
  makesResult: false,
  Options: LinkOptions,
  run(asset, options, context) {
    requireMeshes(asset, "source");
    for (const name of options.parts) partOf(asset, name);
    const families = familiesOf(
      asset,
      piecesOf(asset),
      options.tolerance / 1000,
      context.check,
    ).filter(
      (family) =>
        !options.parts.length ||
        [family, ...family.copies].some(({ part }) =>
          options.parts.includes(part),
        ),
    );
    const copies = families.reduce(
      (sum, family) => sum + family.copies.length,
      0,
    );
    if (copies + asset.parts.length > MOST_PARTS)
      throw new MissingInputError(
        `${spaced(copies)} copies would make more than ${MOST_PARTS} parts: choose the parts whose repeats are to be linked`,
      );
    const next = link(asset, families);
    return {
      asset: next,
      headline: "",
      report: {
        families: families.length,
        copies,
        summary: `${spaced(copies)} pieces now repeat ${spaced(families.length)} that are worked`,
      },
    };
  },
});

function link(asset: Asset, families: readonly FoundFamily[]): Asset {
  const parts: Part[] = [...asset.parts];
  const taken = new Map<string, Set<number>>();
  const added: Part[] = [];
  const names = new Set(parts.map((part) => part.name));
  /** The part's name with the next free number. */
  const newName = (base: string) => {
    let n = 1;
    while (names.has(`${base} ${n}`)) n++;
    names.add(`${base} ${n}`);
    return `${base} ${n}`;
  };
  const originOf = (family: FoundFamily) => {
    if (family.piece < 0) return family.part;
    const name = newName(family.part);
    const part = partOf(asset, family.part);
    added.push(pieceAsPart(part, family.piece, name, taken));
    return name;
  };
  for (const family of families) {
    const origin = originOf(family);
    for (const copy of family.copies) {
      const repeat = { of: origin, matrix: copy.matrix };
      if (copy.piece < 0) {
        const at = parts.findIndex((part) => part.name === copy.part);
        parts[at] = { ...parts[at], repeat, dense: null };
        continue;
      }
      const part = partOf(asset, copy.part);
      const name = newName(copy.part);
      added.push({ ...pieceAsPart(part, copy.piece, name, taken), repeat });
    }
  }
  const left = parts.flatMap((part) => {
    const gone = taken.get(part.name);
    if (!gone || !part.source) return [part];
    const pieces = piecesIn(part.name, part.source);
    if (gone.size === pieces.length && !part.game) return [];
    const keep = new Uint8Array(faceCount(part.source)).fill(1);
    for (const index of gone) for (const f of pieces[index].faces) keep[f] = 0;
    const source = keepFaces(part.source, keep);
    return [{ ...part, source: source.corners.length ? source : null }];
  });
  return { ...asset, parts: [...left, ...added] };
}

function pieceAsPart(
  part: Part,
  index: number,
  name: string,
  taken: Map<string, Set<number>>,
): Part {
  const source = part.source!;
  const piece = piecesIn(part.name, source)[index];
  const keep = new Uint8Array(faceCount(source));
  for (const f of piece.faces) keep[f] = 1;
  taken.set(part.name, (taken.get(part.name) ?? new Set()).add(index));
  return createPart(name, index, {
    colour: part.colour,
    group: part.group || part.name,
    source: keepFaces(source, keep),
  });
}

class UnlinkOptions {
  @field({
    kind: "parts",
    label: "Parts",
    help: "Repeats that are to stand for themselves; empty for all.",
  })
  parts: string[] = [];
}

export const unlinkRepeats = defineOperation({
  id: "survey/unlink-repeats",
  stage: "survey",
  title: "Unlink repeats",
  about:
    "Chosen repeats keep their meshes and are worked by themselves from now on.",
  runs: "instant",
  takes: "source",
  makesResult: false,
  Options: UnlinkOptions,
  run(asset, options) {
    let count = 0;
    const next = mapParts(asset, (part) => {
      const meant = !options.parts.length || options.parts.includes(part.name);
      if (!part.repeat || !meant) return part;
      count++;
      return { ...part, repeat: null };
    });
    return {
      asset: next,
      headline: "",
      report: { unlinked: count, summary: `${count} repeats unlinked` },
    };
  },
});
