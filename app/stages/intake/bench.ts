import { extents, percent, spaced } from "../../components/figures";
import type { Finding } from "../../components/figures";
import type { BenchPlan } from "../bench";

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
    return [
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
