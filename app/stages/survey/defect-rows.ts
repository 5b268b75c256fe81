import type { FoundDefect } from "../../../core/survey/methods/finding";
import type { Mend } from "../../../core/survey/methods/mend";
import { counted } from "../../shared/figures";
import type { Finding } from "../../shared/figures";
import type { Place } from "../../shared/messages";

/** What a finding is called, and what mends it. */
const KINDS: Record<
  FoundDefect["kind"],
  {
    tone: Finding["tone"];
    one: string;
    text: string;
    mend?: Mend;
    label?: string;
  }
> = {
  coincident: {
    tone: "warn",
    one: "coincident vertex",
    text: "coincident vertices",
    mend: "coincident",
    label: "Weld",
  },
  borders: {
    tone: "warn",
    one: "open edge",
    text: "open edges",
    mend: "borders",
    label: "Close holes",
  },
  nonManifoldEdges: {
    tone: "bad",
    one: "edge of more than two faces",
    text: "edges of more than two faces",
    mend: "nonManifold",
    label: "Split",
  },
  nonManifoldVertices: {
    tone: "warn",
    one: "vertex where surfaces only touch",
    text: "vertices where surfaces only touch",
    mend: "nonManifold",
    label: "Split",
  },
  winding: {
    tone: "bad",
    one: "turned face",
    text: "turned faces",
    mend: "winding",
    label: "Turn",
  },
  zeroArea: {
    tone: "warn",
    one: "face without area",
    text: "faces without area",
    mend: "zeroArea",
    label: "Dissolve",
  },
  loose: {
    tone: "warn",
    one: "loose vertex",
    text: "loose vertices",
    mend: "loose",
    label: "Drop",
  },
  duplicateFaces: {
    tone: "bad",
    one: "duplicate face",
    text: "duplicate faces",
    mend: "duplicateFaces",
    label: "Drop",
  },
  selfIntersections: {
    tone: "warn",
    one: "face that crosses its own piece",
    text: "faces that cross their own piece",
    mend: "selfIntersections",
    label: "Redo",
  },
  storedNormals: {
    tone: "bad",
    one: "face whose normals disagree",
    text: "faces whose normals disagree",
    mend: "storedNormals",
    label: "Renew",
  },
  nodeScale: { tone: "note", one: "node scale", text: "node scales" },
  names: { tone: "note", one: "clashing name", text: "clashing names" },
};

export const placeIn = (
  part: string,
  at: [number, number, number],
  radius: number,
  rest: Partial<Place> = {},
): Place => ({ part, at, radius, faces: "", edges: [], vertices: [], ...rest });

function defect(found: FoundDefect): Finding {
  const { tone, one, text, mend, label } = KINDS[found.kind];
  const words = found.note
    ? `${found.part}: ${found.note}`
    : `${found.part}: ${counted(found.count, one, text)}`;
  return {
    tone,
    text: words,
    parts: [found.part],
    places: found.places.map(({ at, radius }) =>
      placeIn(found.part, at, radius, {
        faces: found.faces,
        edges: found.edges,
        vertices: found.vertices,
      }),
    ),
    ...(mend && found.places.length
      ? {
          mend: {
            label: label!,
            operation: "survey/repair",
            options: {
              parts: [found.part],
              mend: [mend],
              // A wide hole is closed by its own row alone.
              ...(found.widest && { holes: Math.ceil(1001 * found.widest) }),
            },
          },
        }
      : {}),
  };
}

/** Crossing faces beyond this share of a part speak of a folded, doubled scan. */
const FOLDED = 0.002;

/** A defect, and the offer of a new skin where mending face by face may not end. */
export function defectRows(found: FoundDefect, triangles: number): Finding[] {
  const row = defect(found);
  return found.kind === "selfIntersections" && found.count > FOLDED * triangles
    ? [
        row,
        {
          tone: "note",
          text: `${found.part} is folded or doubled: what can't be mended face by face, a new skin takes out; the source as it came is baked`,
          parts: [found.part],
          mend: {
            label: "New skin",
            operation: "survey/new-skin",
            options: { parts: [found.part] },
          },
        },
      ]
    : [row];
}
