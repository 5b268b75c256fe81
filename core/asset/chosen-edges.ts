import { MissingInputError } from "../base/errors";
import type { Mesh } from "../mesh/mesh";
import { nextCorners } from "../mesh/normals";
import type { Asset } from "./asset";

const keyOf = (a: number, b: number) => (a < b ? `${a} ${b}` : `${b} ${a}`);

/** Edges of game meshes by part. @param list `part:vertex-vertex`. @throws MissingInputError */
export function edgesByPart(
  asset: Asset,
  list: readonly string[],
): Map<string, Set<string>> {
  const wanted = new Map<string, Set<string>>();
  for (const text of list) {
    const match = /^(.*):(\d+)-(\d+)$/.exec(text);
    const part = asset.parts.find((each) => each.name === match?.[1]);
    if (!match || !part?.game)
      throw new MissingInputError(
        `"${text}" is no edge of a game mesh: give part:vertex-vertex`,
      );
    const set = wanted.get(part.name) ?? new Set<string>();
    set.add(keyOf(Number(match[2]), Number(match[3])));
    wanted.set(part.name, set);
  }
  return wanted;
}

/** cornerCount: 1 where an edge is among them, from both sides. @throws MissingInputError for one that is not there */
export function marksOfEdges(
  mesh: Mesh,
  part: string,
  keys: ReadonlySet<string>,
): Uint8Array {
  const marks = new Uint8Array(mesh.corners.length);
  const next = nextCorners(mesh.faceStarts, mesh.corners.length);
  const left = new Set(keys);
  for (let c = 0; c < mesh.corners.length; c++) {
    const key = keyOf(mesh.corners[c], mesh.corners[next[c]]);
    if (!keys.has(key)) continue;
    marks[c] = 1;
    left.delete(key);
  }
  if (left.size)
    throw new MissingInputError(
      `"${part}" has no edge between vertices ${[...left][0].replace(" ", " and ")}`,
    );
  return marks;
}
