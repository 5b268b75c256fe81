import { chosenParts, requireMeshes } from "../../asset/asset";
import { drawable } from "../../asset/light";
import { mapParts } from "../../asset/parts";
import { PartsOptions } from "../../asset/parts-options";
import { denoised } from "../../mesh/denoise";
import type { Mesh } from "../../mesh/mesh";
import type { MeshPlace } from "../../mesh/places";
import { placesOf } from "../../mesh/places";
import { settledOf } from "../../settle/settled-of";
import { defineOperation, field } from "../../asset/operation";
import { spanOf } from "../../base/context";
import { boundsOf, diagonalOf } from "../../space/bounds";

class NoiseOptions extends PartsOptions {
  @field({
    kind: "integer",
    label: "Strength",
    help: "Rounds of smoothing: more takes out coarser noise.",
    min: 1,
    max: 60,
  })
  strength = 8;

  @field({
    kind: "number",
    label: "Edges from",
    help: "What turns by more than this is an edge and stays.",
    unit: "°",
    min: 1,
    max: 90,
    step: 1,
  })
  edge = 35;

  @field({
    kind: "flag",
    label: "Only try",
    help: "Shows what would come of it, says how far things would move and where most, and leaves the source alone.",
  })
  only = false;
}

/** How far one part's vertices move, or would. */
export interface PartNoise {
  part: string;
  /** Largest move and root mean square, metres. */
  largest: number;
  rms: number;
  /** Where it moves most. */
  places: MeshPlace[];
}

/** Places that are told of each part. */
const PLACES = 5;

export const takeNoiseOut = defineOperation({
  id: "survey/take-noise-out",
  stage: "survey",
  title: "Take scan noise out",
  about:
    "Smooths what scanning left and keeps edges; the source as it came can be put back. Try it first to see the largest move.",
  runs: "heavy",
  takes: "source",
  makesResult: false,
  keepsReport: true,
  Options: NoiseOptions,
  run(asset, options, context) {
    requireMeshes(asset, "source");
    const chosen = chosenParts(asset, options.parts);
    const parts: PartNoise[] = [];
    let done = 0;
    const next = mapParts(asset, (part) => {
      if (!part.source || part.repeat || !chosen.has(part.name))
        return part.tried ? { ...part, tried: null } : part;
      const step = spanOf(context, done / chosen.size, ++done / chosen.size);
      const { mesh } = settledOf(part.source, () => context.check());
      const positions = denoised(mesh, {
        edge: options.edge,
        rounds: options.strength,
        check: () => context.check(),
        progress: (share) => step.progress(share, `smoothing ${part.name}`),
      });
      parts.push({ part: part.name, ...movesOf(mesh, positions) });
      const source = { ...mesh, positions, normals: null };
      return options.only
        ? { ...part, tried: drawable(source) }
        : { ...part, source, dense: part.dense ?? part.source, tried: null };
    });
    const largest = Math.max(0, ...parts.map((part) => part.largest));
    return {
      asset: next,
      headline: "",
      report: {
        only: options.only,
        parts,
        largest,
        summary: `${options.only ? "would move" : "moved"} by up to ${(1000 * largest).toFixed(3)} mm`,
      },
    };
  },
});

function movesOf(mesh: Mesh, positions: Float32Array) {
  const p = mesh.positions;
  const count = p.length / 3;
  const moves = new Float32Array(count);
  let squares = 0;
  for (let v = 0; v < count; v++) {
    const d2 =
      (p[3 * v] - positions[3 * v]) ** 2 +
      (p[3 * v + 1] - positions[3 * v + 1]) ** 2 +
      (p[3 * v + 2] - positions[3 * v + 2]) ** 2;
    squares += d2;
    moves[v] = Math.sqrt(d2);
  }
  // The hundred that move most, far apart ones as places of their own.
  const most = Array.from(moves.keys())
    .sort((a, b) => moves[b] - moves[a])
    .slice(0, 100);
  return {
    largest: moves[most[0]] ?? 0,
    rms: Math.sqrt(squares / (count || 1)),
    places: placesOf(
      p,
      most.map((v) => [v]),
      diagonalOf(boundsOf(p)),
    ).slice(0, PLACES),
  };
}
