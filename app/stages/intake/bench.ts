import type { UnlikelySize } from "../../../core/intake/methods/likely-size";
import {
  coarseStep,
  unlikelySize,
} from "../../../core/intake/methods/likely-size";
import {
  extents,
  length as metres,
  percent,
  spaced,
} from "../../shared/figures";
import type { Finding } from "../../shared/figures";
import type { BenchPlan } from "../../shared/bench";

/** Asks about a size that is unlikely for a whole asset. */
function sizeRow({ size, along, unit, factor }: UnlikelySize): Finding {
  return {
    tone: "warn",
    text:
      factor < 1
        ? `${metres(size)} ${along}: are these ${unit}?`
        : `${metres(size)} ${along}: ${spaced(factor)} times too small?`,
    mend: {
      label:
        factor < 1 ? `Take as ${unit}` : `Scale up ${spaced(factor)} times`,
      operation: "intake/scale",
      options: { factor },
    },
  };
}

/** Warns of coordinates that have few digits left for the shape. */
function stepRow(size: number, farthest: number): Finding[] {
  const step = coarseStep(size, farthest);
  return step === null
    ? []
    : [
        {
          tone: "warn",
          text: `it lies ${metres(farthest)} from the origin: coordinates there come in steps of ${metres(step)}, few across ${metres(size)}. Move it, and better do so where it was made`,
          mend: {
            label: "Move to the origin",
            operation: "intake/scale",
            options: { ground: true },
          },
        },
      ];
}

export const intake: BenchPlan = {
  about: "Bring meshes in, say what they are to become.",
  main: "intake/bring-in",
  more: [],
  groups: [
    {
      title: "Scale and parts",
      operations: ["intake/scale", "intake/part-rules", "intake/part-pair"],
    },
  ],
  figures(asset, result) {
    const size = (result.report.sizeMetres as number[] | undefined) ?? [];
    const total = (which: "source" | "game") =>
      asset.document.parts.reduce(
        (sum, part) => sum + (part[which]?.triangles ?? 0),
        0,
      );
    return [
      { label: "Parts", value: String(asset.document.parts.length) },
      { label: "Source triangles", value: spaced(total("source")) },
      {
        label: "Game triangles",
        value: spaced(total("game")),
        limit: `≤ ${spaced(asset.document.brief.triangles)}`,
        state:
          total("game") > asset.document.brief.triangles ? "bad" : undefined,
      },
      ...(size.length
        ? [
            {
              label: "Size",
              value: extents(size),
            },
          ]
        : []),
    ];
  },
  findings(asset, result) {
    const report = result?.report ?? {};
    const present = new Set(asset.document.parts.map((part) => part.name));
    const off = (report.mismatches ?? []) as {
      part: string;
      offset: number;
      sizeRatio: number;
    }[];
    const sizes = (report.sizeMetres ?? []) as number[];
    const unlikely = unlikelySize(sizes);
    return [
      ...(unlikely ? [sizeRow(unlikely)] : []),
      ...stepRow(Math.max(0, ...sizes), Number(report.farthestMetres ?? 0)),
      ...off
        .filter(({ part }) => present.has(part))
        .map(({ part, offset, sizeRatio }): Finding => ({
          tone: "bad",
          text: `source and game mesh of ${part} do not coincide: ${percent(offset)} of its size apart, ${sizeRatio.toFixed(2)} × as large`,
          parts: [part],
          mend: {
            label: "Part them",
            operation: "intake/part-pair",
            options: { parts: [part] },
          },
        })),
      ...((report.found ?? []) as { part: string; note: string }[])
        .filter(({ part }) => present.has(part))
        .map(({ part, note }): Finding => ({
          tone: "note",
          text: `${part}: ${note}`,
          parts: [part],
        })),
      ...((report.repairs ?? []) as string[]).map((text): Finding => ({
        tone: "note",
        text,
      })),
    ];
  },
};
