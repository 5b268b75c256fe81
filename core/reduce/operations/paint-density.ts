import type { ChosenFaces } from "../../asset/chosen-faces";
import { chosenFaces, FaceOptions } from "../../asset/chosen-faces";
import type { Asset } from "../../asset/asset";
import { chosenParts } from "../../asset/asset";
import { spaced } from "../../base/wording";
import { onSources } from "../../asset/other-mesh";
import { mapParts } from "../../asset/parts";
import { MissingInputError } from "../../base/errors";
import { DENSITY_LEFT, densityMark } from "../../decimate/density";
import { buildEdges } from "../../mesh/edges";
import type { Mesh } from "../../mesh/mesh";
import { faceCount, faceOfCorners } from "../../mesh/mesh";
import { faceNormals } from "../../mesh/normals";
import { triangulate } from "../../mesh/triangulate";
import { defineOperation, field } from "../../asset/operation";
import { boundsOf, diagonalOf } from "../../space/bounds";
import { buildBvh } from "../../space/bvh";
import { ClosestPoint } from "../../space/closest-point";
import { mirrored, MirrorTest } from "../../mesh/mirror-plane";

class DensityOptions extends FaceOptions {
  @field({
    kind: "choice",
    label: "Triangles here",
    help: "What the chosen faces, or the chosen parts where no face is chosen, are wanted to be.",
    choices: [
      { value: "finer", label: "finer" },
      { value: "coarser", label: "coarser" },
      { value: "leave", label: "left as they are" },
      { value: "plain", label: "as they come" },
    ],
  })
  wish: "finer" | "coarser" | "leave" | "plain" = "finer";

  @field({
    kind: "number",
    label: "Strength",
    help: "How much finer or coarser in the middle.",
    min: 0.05,
    max: 1,
    step: 0.05,
  })
  strength = 0.5;

  @field({
    kind: "number",
    label: "Falloff",
    help: "How far the wish fades out beyond the faces.",
    unit: "mm",
    min: 0,
    max: 10000,
    step: 1,
  })
  falloff = 0;

  @field({
    kind: "flag",
    label: "Mirror",
    help: "Does the same on the other side of the asset's mirror plane.",
  })
  mirror = false;

  @field({
    kind: "parts",
    label: "Parts",
    help: "Which parts, where no face is chosen.",
  })
  parts: string[] = [];
}

export const paintDensity = defineOperation({
  id: "reduce/paint-density",
  stage: "reduce",
  title: "Paint density",
  about:
    "Says where the game mesh is to be finer, coarser, or left as the source is.",
  runs: "instant",
  takes: "source",
  makesResult: false,
  Options: DensityOptions,
  run(asset, options) {
    const chosen = facesToPaint(asset, options);
    const plane = options.mirror
      ? new MirrorTest(
          asset.parts.flatMap((part) => part.source ?? []),
        ).findPlane()
      : null;
    if (options.mirror && !plane)
      throw new MissingInputError("no mirror plane was found");
    let count = 0;
    const next = mapParts(asset, (part) => {
      if (!part.source || part.locked || part.repeat) return part;
      const own = chosen.find((each) => each.part === part);
      const reach = options.falloff / 1000;
      const seeds = chosen.filter((each) => each === own || plane);
      const density =
        part.source.density?.slice() ?? new Uint8Array(faceCount(part.source));
      let touched = 0;
      const middles = middlesOf(part.source);
      const set = (f: number, share: number) => {
        if (share <= 0) return;
        touched++;
        if (options.wish === "leave" || options.wish === "plain") {
          if (share === 1)
            density[f] = options.wish === "leave" ? DENSITY_LEFT : 0;
        } else {
          const sign = options.wish === "finer" ? 1 : -1;
          density[f] = densityMark(sign * options.strength * share);
        }
      };
      own?.marks.forEach((mark, f) => {
        if (mark) set(f, 1);
      });
      for (const each of seeds) {
        if (!reach && !plane) continue;
        const near = new Nearest(each.mesh, each.marks);
        for (let f = 0; f < density.length; f++) {
          if (own?.marks[f]) continue;
          const at = middles.subarray(3 * f, 3 * f + 3);
          let far = each === own ? near.distance(at) : Infinity;
          if (plane) far = Math.min(far, near.distance(mirrored(plane, at)));
          const slack = 1e-4 * near.diagonal;
          set(
            f,
            far <= slack ? 1 : reach > 0 ? Math.max(0, 1 - far / reach) : 0,
          );
        }
      }
      if (!touched) return part;
      count += touched;
      return {
        ...part,
        source: {
          ...part.source,
          density: density.some((d) => d) ? density : null,
        },
      };
    });
    return {
      asset: next,
      headline: "",
      report: {
        faces: count,
        summary: `${spaced(count)} faces ${options.wish}`,
      },
    };
  },
});

/** The chosen faces, or those of all chosen parts where none is chosen. */
function facesToPaint(
  asset: Asset,
  options: DensityOptions,
): Pick<ChosenFaces, "part" | "mesh" | "marks">[] {
  if (options.faces.length)
    return chosenFaces(asset, onSources(asset, options));
  const names = chosenParts(asset, options.parts);
  return asset.parts.flatMap((part) =>
    part.source && names.has(part.name)
      ? [
          {
            part,
            mesh: part.source,
            marks: new Uint8Array(faceCount(part.source)).fill(1),
          },
        ]
      : [],
  );
}

class Nearest {
  private readonly closest: ClosestPoint;
  readonly diagonal: number;

  constructor(mesh: Mesh, marks: Uint8Array) {
    const { vertices, faces } = triangulate(mesh);
    const own: number[] = [];
    faces.forEach((f, t) => {
      if (marks[f])
        own.push(vertices[3 * t], vertices[3 * t + 1], vertices[3 * t + 2]);
    });
    this.closest = new ClosestPoint(buildBvh(mesh.positions, own));
    this.diagonal = diagonalOf(boundsOf(mesh.positions));
  }

  distance(at: ArrayLike<number>): number {
    return this.closest.find(at[0], at[1], at[2]) < 0
      ? Infinity
      : Math.sqrt(this.closest.distance2);
  }
}

function middlesOf(mesh: Mesh): Float32Array {
  const middles = new Float32Array(3 * faceCount(mesh));
  for (let f = 0; f < faceCount(mesh); f++) {
    const [s, e] = [mesh.faceStarts[f], mesh.faceStarts[f + 1]];
    for (let c = s; c < e; c++)
      for (let k = 0; k < 3; k++)
        middles[3 * f + k] += mesh.positions[3 * mesh.corners[c] + k] / (e - s);
  }
  return middles;
}

class ComputedOptions {
  @field({
    kind: "choice",
    label: "Finer where",
    help: "What the wish is computed from.",
    choices: [
      { value: "curved", label: "the surface curves" },
      { value: "seen", label: "it is seen often" },
      { value: "hidden", label: "coarser where it is hidden" },
      { value: "joint", label: "another part is near" },
    ],
  })
  from: "curved" | "seen" | "hidden" | "joint" = "curved";

  @field({
    kind: "number",
    label: "Strength",
    help: "How much finer or coarser at the most.",
    min: 0.05,
    max: 1,
    step: 0.05,
  })
  strength = 0.5;

  @field({
    kind: "number",
    label: "Reach of a joint",
    help: "How far from another part is near, as a share of the asset.",
    unit: "%",
    min: 0.1,
    max: 50,
    step: 0.1,
    folded: true,
  })
  reach = 4;

  @field({ kind: "parts", label: "Parts", help: "Which parts; empty for all." })
  parts: string[] = [];
}

export const computeDensity = defineOperation({
  id: "reduce/compute-density",
  stage: "reduce",
  title: "Compute density",
  about:
    "Paints finer and coarser from curvature, from what is seen, or from where parts meet.",
  runs: "instant",
  takes: "source",
  makesResult: false,
  Options: ComputedOptions,
  run(asset, options) {
    const chosen = chosenParts(asset, options.parts);
    const bounds = boundsOf(
      ...asset.parts.flatMap((part) =>
        part.source ? [part.source.positions] : [],
      ),
    );
    const reach = (options.reach / 100) * diagonalOf(bounds);
    let count = 0;
    const next = mapParts(asset, (part) => {
      const mesh = part.source;
      if (!mesh || !chosen.has(part.name)) return part;
      const others = asset.parts.flatMap((other) =>
        other !== part && other.source ? [other.source] : [],
      );
      const shares =
        options.from === "curved"
          ? curvedShares(mesh)
          : options.from === "joint"
            ? jointShares(mesh, others, reach)
            : seenWishes(mesh, options.from === "hidden", part.name);
      count++;
      return {
        ...part,
        source: {
          ...mesh,
          density: Uint8Array.from(shares, (share) =>
            densityMark(options.strength * share),
          ),
        },
      };
    });
    return {
      asset: next,
      headline: "",
      report: { parts: count, summary: `${count} parts painted` },
    };
  },
});

/** −1 … 1 by how much the faces round an edge turn for their size, against the middle of all faces. */
function curvedShares(mesh: Mesh): Float32Array {
  const edges = buildEdges(mesh);
  const normals = faceNormals(mesh);
  const face = faceOfCorners(mesh);
  const turn = new Float32Array(faceCount(mesh));
  for (let e = 0; e < edges.count; e++) {
    if (edges.uses[e] !== 2) continue;
    const [f, g] = [face[edges.first[e]], face[edges.second[e]]];
    let cos = 0;
    for (let k = 0; k < 3; k++) cos += normals[3 * f + k] * normals[3 * g + k];
    const angle = Math.acos(Math.max(-1, Math.min(1, cos)));
    const [a, b] = [edges.vertices[2 * e], edges.vertices[2 * e + 1]];
    const length = Math.hypot(
      ...[0, 1, 2].map(
        (k) => mesh.positions[3 * a + k] - mesh.positions[3 * b + k],
      ),
    );
    for (const h of [f, g])
      turn[h] = Math.max(turn[h], angle / (length || 1e-9));
  }
  const sorted = turn.slice().sort();
  const middle = sorted[sorted.length >> 1] || 1e-9;
  return turn.map((value) =>
    Math.max(-1, Math.min(1, Math.log2((value + 1e-6) / middle) / 4)),
  );
}

/** 1 at another part, falling to 0 at the reach. */
function jointShares(
  mesh: Mesh,
  others: readonly Mesh[],
  reach: number,
): Float32Array {
  const middles = middlesOf(mesh);
  const nearest = others.map(
    (other) => new Nearest(other, new Uint8Array(faceCount(other)).fill(1)),
  );
  return new Float32Array(faceCount(mesh)).map((_, f) => {
    const at = middles.subarray(3 * f, 3 * f + 3);
    const far = nearest.reduce(
      (least, near) => Math.min(least, near.distance(at)),
      Infinity,
    );
    return Math.max(0, 1 - far / (reach || 1e-9));
  });
}

/** From what Survey saw. @throws MissingInputError where it has not looked */
function seenWishes(mesh: Mesh, hidden: boolean, name: string): Float32Array {
  if (!mesh.visibility)
    throw new MissingInputError(
      `nobody has looked at ${name} yet: find what nobody sees at Survey first`,
    );
  const top = mesh.visibility.reduce((most, value) => Math.max(most, value), 1);
  return Float32Array.from(mesh.visibility, (value) =>
    hidden ? Math.min(0, (2 * value) / top - 1) : (2 * value) / top - 1,
  );
}
