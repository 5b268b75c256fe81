import type { Mesh } from "../core/mesh/mesh";
import { faceCount } from "../core/mesh/mesh";
import { STREAM_NAMES, STREAMS } from "../core/mesh/streams";

/** A mesh that has every stream there is, each full of numbers of its own. */
export function withEveryStream(mesh: Mesh, seed: number): Mesh {
  const streams = STREAM_NAMES.map((name, i) => {
    const { on, width } = STREAMS[name];
    const count =
      width * (on === "faces" ? faceCount(mesh) : mesh.corners.length);
    const value = (at: number) => 1 + ((seed + 7 * i + 13 * at) % 89);
    if (name === "uvs")
      return [name, Float32Array.from({ length: count }, (_, c) => value(c))];
    if (name === "normals")
      return [
        name,
        Float32Array.from({ length: count }, (_, c) =>
          c % 3 === seed % 3 ? 1 : 0,
        ),
      ];
    if (name === "faceMaterials" || name === "ids")
      return [name, Uint16Array.from({ length: count }, (_, f) => f % 2)];
    return [name, Uint8Array.from({ length: count }, (_, at) => value(at))];
  });
  return {
    ...mesh,
    ...(Object.fromEntries(streams) as Partial<Mesh>),
    materials: ["bone", "brass"],
  };
}
