import type { Asset, Part } from "../../asset/asset";
import { requireMeshes } from "../../asset/asset";
import { spaced } from "../../base/wording";
import { chosenFaces, FaceOptions } from "../../asset/chosen-faces";
import { texelDensityOf, texturedArea } from "../../asset/density";
import { findFloaters } from "../../asset/floaters";
import { withoutDetail } from "../../asset/leave-out";
import { areaOf } from "../../mesh/area";
import { mapParts } from "../../asset/parts";
import { withReport } from "../../asset/reports";
import { onSources } from "../../asset/other-mesh";
import { PieceDistances, piecesOf } from "../../asset/pieces";
import { withSourceOnly } from "../../asset/source-only";
import { MissingInputError } from "../../base/errors";
import type { Mesh } from "../../mesh/mesh";
import { faceCount, triangleCount } from "../../mesh/mesh";
import { keepFaces } from "../../mesh/change-faces";
import { fromRanges, indicesOf, toRanges } from "../../base/ranges";
import { triangulate } from "../../mesh/triangulate";
import { defineOperation, field } from "../../asset/operation";
import { boundsOf, diagonalOf } from "../../space/bounds";
import { buildBvh } from "../../space/bvh";
import { ClosestPoint } from "../../space/closest-point";
import type { Side } from "../../space/directions";
import { SIDES } from "../../space/directions";
import { sampleSurface } from "../../space/sample";
import { surfaceOf, compareOutlines } from "./judge";

/** Something that could be baked only, and what that frees. */
export interface Spare {
  kind: "unseen" | "floaters" | "baked only";
  part: string;
  /** Faces of the source in short form. */
  faces: string;
  pieces: number;
  sourceTriangles: number;
  /** Triangles of the game mesh that stand for it. */
  triangles: number;
  /** Share of the sheet that these take. */
  sheet: number;
}

class SpareOptions {
  @field({
    kind: "number",
    label: "Seen by up to",
    help: "Faces that no more than this share of the views sees count as unseen.",
    unit: "% of views",
    min: 0,
    max: 50,
    step: 0.5,
  })
  threshold = 0;
}

export const findSpares = defineOperation({
  id: "reduce/find-spares",
  stage: "reduce",
  title: "Find what could be left out",
  about:
    "Lists unseen faces and floating details that cost triangles, and what is baked only already, with what each frees.",
  runs: "heavy",
  takes: "both",
  makesResult: false,
  keepsReport: true,
  madeFrom: [
    "names of parts",
    "source meshes",
    "what is only baked",
    "what is seen",
    "game meshes",
  ],
  Options: SpareOptions,
  run(asset, options, context) {
    requireMeshes(asset, "source");
    const spares: Spare[] = [];
    const areas = asset.parts.map((part) =>
      part.game && !part.repeat ? areaOf(part.game) : 0,
    );
    const all = areas.reduce((sum, area) => sum + area, 0);
    const add = (
      kind: Spare["kind"],
      part: Part,
      marks: Uint8Array,
      pieces: number,
    ) => {
      if (!marks.some((mark) => mark)) return;
      const freed = part.game ? withoutDetail(part, marks, false) : null;
      // What costs nothing in a mesh that is there is no spare.
      if (kind !== "baked only" && freed?.triangles === 0) return;
      spares.push({
        kind,
        part: part.name,
        faces: toRanges(indicesOf(marks)),
        pieces,
        sourceTriangles: triangleCount(keepFaces(part.source!, marks)),
        triangles: kind === "baked only" ? 0 : (freed?.triangles ?? 0),
        sheet: freed && all && kind !== "baked only" ? freed.area / all : 0,
      });
    };
    const worked = asset.parts.filter((part) => part.source && !part.repeat);
    worked.forEach((part, i) => {
      context.check();
      context.progress((0.4 * i) / worked.length, `looking at ${part.name}`);
      const { visibility, sourceOnly } = part.source!;
      if (visibility) {
        const limit = Math.floor((255 * options.threshold) / 100);
        add(
          "unseen",
          part,
          visibility.map((value, f) =>
            value <= limit && !sourceOnly?.[f] ? 1 : 0,
          ),
          0,
        );
      }
      if (sourceOnly) add("baked only", part, sourceOnly, 0);
    });
    context.progress(0.45, "looking for floating detail");
    const pieces = piecesOf(asset);
    const { groups } = findFloaters(pieces, new PieceDistances(pieces), () =>
      context.check(),
    );
    for (const group of groups) {
      const part = asset.parts.find(({ name }) => name === group.part)!;
      if (!group.sourceOnly)
        add(
          "floaters",
          part,
          fromRanges(group.faces, faceCount(part.source!)),
          group.pieces,
        );
    }
    const triangles = spares.reduce((sum, spare) => sum + spare.triangles, 0);
    return {
      asset,
      headline: `${spaced(triangles)} triangles`,
      report: {
        spares: spares.sort((a, b) => b.triangles - a.triangles),
        looked: worked.some((part) => part.source!.visibility),
        summary: `${spaced(triangles)} triangles could be left out in ${spares.filter(({ kind }) => kind !== "baked only").length} places`,
      },
    };
  },
});

class LeaveOutOptions extends FaceOptions {
  @field({
    kind: "flag",
    label: "Baked only",
    help: "On: the chosen faces bake and cost no triangles. Off: they count again at the next reduction.",
  })
  on = true;

  @field({
    kind: "flag",
    label: "Close what opens",
    help: "Fills the hole that an attached detail leaves in the game mesh.",
  })
  close = true;
}

export const leaveOut = defineOperation({
  id: "reduce/leave-out",
  stage: "reduce",
  title: "Leave out, bake only",
  about:
    "Chosen faces of the source are baked only: what stands for them in the game mesh goes.",
  runs: "instant",
  takes: "both",
  makesResult: false,
  Options: LeaveOutOptions,
  run(asset, options) {
    const chosen = chosenFaces(asset, onSources(asset, options));
    let freed = 0;
    let area = 0;
    const all = texturedArea(asset);
    const next = mapParts(asset, (part) => {
      const own = chosen.find((each) => each.part === part);
      if (!own) return part;
      const source = withSourceOnly(own.mesh, own.marks, options.on);
      if (!options.on || !part.game) return { ...part, source };
      const without = withoutDetail(part, own.marks, options.close);
      freed += without.triangles - without.closing;
      area += without.area - without.closingArea;
      return { ...part, source, game: without.mesh };
    });
    const faces = chosen.reduce((sum, { count }) => sum + count, 0);
    return {
      asset: withoutSpares(next, options.faces),
      headline: "",
      report: {
        faces,
        freed,
        sheet: all ? area / all : 0,
        summary: options.on
          ? `${spaced(faces)} faces are baked only: ${spaced(freed)} triangles and ${((100 * area) / (all || 1)).toFixed(1)} % of the sheet came free`
          : `${spaced(faces)} faces count again`,
      },
    };
  },
});

/** Rows that were dealt with leave the list of spares. */
const withoutSpares = (asset: Asset, faces: readonly string[]): Asset =>
  withReport(asset, "reduce/find-spares", (report) => ({
    ...report,
    spares: (report.spares as Spare[]).filter(
      (spare) => !faces.includes(`${spare.part}:${spare.faces}`),
    ),
  }));

/** A detail as geometry and as map. */
export interface BothWays {
  part: string;
  faces: string;
  /** How far it rises above what is left without it, and how far it sinks in, metres. */
  raised: number;
  sunken: number;
  geometry: { triangles: number; texels: number };
  map: { triangles: number; texels: number };
  /** Silhouette that differs without it, as a share of the part's: mean and worst of the allowed directions. */
  silhouetteMean: number;
  silhouetteMax: number;
  towards: number[];
}

class TryOptions extends FaceOptions {
  @field({
    kind: "choice",
    label: "Looked at",
    help: "From where the silhouette counts.",
    choices: SIDES,
  })
  from: Side = "all round";
}

/** A silhouette that differs by less than this share at its worst is taken for the same. */
const SEEN_CHANGE = 0.004;

export const tryBoth = defineOperation({
  id: "reduce/try-both",
  stage: "reduce",
  title: "Try both",
  about:
    "Sets a chosen detail as geometry beside the same as map: triangles, texels, and what the silhouette loses.",
  runs: "instant",
  takes: "both",
  makesResult: false,
  keepsReport: true,
  madeFrom: ["names of parts", "source meshes", "game meshes", "UVs"],
  Options: TryOptions,
  run(asset, options) {
    const chosen = chosenFaces(asset, onSources(asset, options));
    const density =
      asset.brief.texelsPerMetre ||
      texelDensityOf(asset.brief.sheetSize, texturedArea(asset));
    const details = chosen.map(({ part, mesh, marks }): BothWays => {
      const without = withoutDetail(part, marks, true);
      if (!without.mesh)
        throw new MissingInputError(
          `${part.name} is nothing but what is chosen: choose a detail of it`,
        );
      const whole = surfaceOf([part.game ?? part.source]);
      const outline = compareOutlines(
        whole,
        surfaceOf([without.mesh]),
        options.from,
      );
      return {
        part: part.name,
        faces: toRanges(indicesOf(marks)),
        ...heights(mesh, marks, without.mesh),
        geometry: {
          triangles: without.triangles,
          texels: Math.round(without.area * density ** 2),
        },
        map: {
          triangles: without.closing,
          texels: Math.round(without.closingArea * density ** 2),
        },
        silhouetteMean: outline.silhouetteMean,
        silhouetteMax: outline.silhouetteMax,
        towards: outline.worstViews[0].towards,
      };
    });
    const saved = details.reduce(
      (sum, { geometry, map }) => sum + geometry.triangles - map.triangles,
      0,
    );
    const worst = Math.max(...details.map((each) => each.silhouetteMax));
    return {
      asset,
      headline: `${spaced(saved)} triangles`,
      report: {
        details,
        saved,
        silhouetteMax: worst,
        advice: worst < SEEN_CHANGE ? "map" : "geometry",
        summary: `as map it saves ${spaced(saved)} triangles and changes the silhouette by ${(100 * worst).toFixed(2)} % at worst`,
      },
    };
  },
});

/** How far marked faces rise above a mesh and sink below it, metres. */
function heights(mesh: Mesh, marks: Uint8Array, left: Mesh) {
  const detail = keepFaces(mesh, marks);
  const { vertices } = triangulate(detail);
  const { points } = sampleSurface(detail.positions, vertices, 400, 5);
  const ground = surfaceOf([left]);
  const closest = new ClosestPoint(
    buildBvh(ground.positions, ground.triangles),
  );
  const p = ground.positions;
  let raised = 0;
  let sunken = 0;
  for (let i = 0; i < points.length; i += 3) {
    const t = 3 * closest.find(points[i], points[i + 1], points[i + 2]);
    const [a, b, c] = [0, 1, 2].map((k) => 3 * ground.triangles[t + k]);
    const u = [0, 1, 2].map((k) => p[b + k] - p[a + k]);
    const v = [0, 1, 2].map((k) => p[c + k] - p[a + k]);
    const side =
      (points[i] - closest.x) * (u[1] * v[2] - u[2] * v[1]) +
      (points[i + 1] - closest.y) * (u[2] * v[0] - u[0] * v[2]) +
      (points[i + 2] - closest.z) * (u[0] * v[1] - u[1] * v[0]);
    const far = Math.sqrt(closest.distance2);
    if (side > 0) raised = Math.max(raised, far);
    else sunken = Math.max(sunken, far);
  }
  const slack = 1e-5 * diagonalOf(boundsOf(mesh.positions));
  return {
    raised: raised > slack ? raised : 0,
    sunken: sunken > slack ? sunken : 0,
  };
}
