import { length, spaced } from "../../components/figures";
import type { BenchPlan } from "../bench";

export const intake: BenchPlan = {
  about: "Bring meshes in, say what they are to become.",
  main: "intake/bring-in",
  more: ["intake/part-rules"],
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
              label: "Width × height × depth",
              value: size.map(length).join(" × "),
            },
          ]
        : []),
    ];
  },
  findings(_, result) {
    return ((result?.report.repairs as string[] | undefined) ?? []).map(
      (text) => ({ tone: "warn", text }),
    );
  },
};
