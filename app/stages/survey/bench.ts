import { spaced } from "../../components/figures";
import type { FigureRow, Finding } from "../../components/figures";
import type { BenchPlan } from "../bench";
import { needSource, numbersOf } from "../bench";

interface PartRow {
  part: string;
  borderEdges: number;
  nonManifoldEdges: number;
  degenerateFaces: number;
  flippedFaces: number;
  duplicateVertices: number;
}

export const survey: BenchPlan = {
  about: "Counts and defects of what came in.",
  main: "survey/count",
  more: ["survey/weld"],
  missing: needSource,
  figures(_, { report }) {
    const n = numbersOf(report);
    const defect = (label: string, name: string): FigureRow => ({
      label,
      value: spaced(n(name)),
      limit: "0",
      state: n(name) ? "warn" : "good",
    });
    return [
      { label: "Triangles", value: spaced(n("triangles")) },
      { label: "Quads", value: spaced(n("quads")) },
      { label: "N-gons", value: spaced(n("ngons")) },
      { label: "Vertices", value: spaced(n("vertices")) },
      { label: "Components", value: spaced(n("components")) },
      { label: "Open edges", value: spaced(n("borderEdges")) },
      defect("Non-manifold edges", "nonManifoldEdges"),
      defect("Faces without area", "degenerateFaces"),
      defect("Turned faces", "flippedFaces"),
      defect("Coincident vertices", "duplicateVertices"),
    ];
  },
  findings(_, result) {
    const rows = (result?.report.perPart as PartRow[] | undefined) ?? [];
    return rows.flatMap((row): Finding[] => [
      ...(row.duplicateVertices
        ? [
            {
              tone: "warn" as const,
              text: `${spaced(row.duplicateVertices)} vertices of ${row.part} coincide`,
              parts: [row.part],
              mend: {
                label: "Weld",
                operation: "survey/weld",
                options: { parts: [row.part] },
              },
            },
          ]
        : []),
      ...(row.nonManifoldEdges
        ? [
            {
              tone: "bad" as const,
              text: `${spaced(row.nonManifoldEdges)} edges of ${row.part} have more than two faces`,
              parts: [row.part],
            },
          ]
        : []),
      ...(row.flippedFaces
        ? [
            {
              tone: "bad" as const,
              text: `${spaced(row.flippedFaces)} faces of ${row.part} are turned inside out`,
              parts: [row.part],
            },
          ]
        : []),
      ...(row.borderEdges
        ? [
            {
              tone: "warn" as const,
              text: `${row.part} is open along ${spaced(row.borderEdges)} edges`,
              parts: [row.part],
            },
          ]
        : []),
    ]);
  },
};
