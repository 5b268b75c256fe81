import { faceCount } from "../../core/mesh/mesh";
import { unfoldSeams } from "../../core/unwrap/methods/unfold-seams";
import type { TrialInput, TrialOutput } from "./seam-trials";

/** Rounds of flattening: enough to judge a layout by. */
const ROUNDS = 6;

self.onmessage = ({ data }: MessageEvent<TrialInput>) => {
  const { turn, mesh, sheet } = data;
  const start = performance.now();
  const made = unfoldSeams(mesh, sheet, { rounds: ROUNDS });
  const uvs = made.mesh.uvs!;
  const changed = new Uint8Array(faceCount(mesh));
  for (let f = 0; f < changed.length; f++)
    for (let i = 2 * mesh.faceStarts[f]; i < 2 * mesh.faceStarts[f + 1]; i++)
      if (uvs[i] !== mesh.uvs![i]) changed[f] = 1;
  const output: TrialOutput = {
    turn,
    uvs,
    seams: made.mesh.seams!,
    changed,
    islands: made.islands,
    stretch: made.stretch,
    milliseconds: performance.now() - start,
  };
  postMessage(output);
};
