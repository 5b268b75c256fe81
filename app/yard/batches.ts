import type { Material, Matrix4 } from "three";
import { BufferAttribute, BufferGeometry, Vector3, Vector4 } from "three";

/** A mesh in its place. */
export interface PlacedGeometry {
  geometry: BufferGeometry;
  material: Material;
  matrix: Matrix4;
}

/** All that is drawn with one material, as one mesh. */
export interface Batch {
  material: Material;
  geometry: BufferGeometry;
}

/** What a batch may have besides its places, and how many numbers each. */
const STREAMS = { normal: 3, uv: 2, tangent: 4, color: 3 } as const;
type Stream = keyof typeof STREAMS;

/** Joins meshes of one material each, as an engine does for what moves as one. */
export function batchesOf(list: readonly PlacedGeometry[]): Batch[] {
  const byMaterial = new Map<Material, PlacedGeometry[]>();
  for (const each of list)
    byMaterial.set(each.material, [
      ...(byMaterial.get(each.material) ?? []),
      each,
    ]);
  return [...byMaterial].map(([material, placed]) => ({
    material,
    geometry: joined(placed),
  }));
}

/** In one piece: one walk over the meshes fills all streams at once. */
function joined(list: readonly PlacedGeometry[]): BufferGeometry {
  const count = list.reduce(
    (sum, { geometry }) => sum + geometry.attributes.position.count,
    0,
  );
  const corners = list.reduce(
    (sum, { geometry }) => sum + lengthOf(geometry),
    0,
  );
  const positions = new Float32Array(3 * count);
  // What one of them lacks is nought for it.
  const names = (Object.keys(STREAMS) as Stream[]).filter(
    (name) =>
      name === "normal" ||
      list.some(({ geometry }) => geometry.attributes[name]),
  );
  const streams = new Map(
    names.map((name) => [name, new Float32Array(STREAMS[name] * count)]),
  );
  const indices = new Uint32Array(corners);
  let base = 0;
  let at = 0;
  const point = new Vector3();
  const four = new Vector4();
  for (const { geometry, matrix } of list) {
    if (!geometry.attributes.normal) geometry.computeVertexNormals();
    const mirrored = matrix.determinant() < 0;
    const normalMatrix = matrix.clone().invert().transpose();
    const { position, normal } = geometry.attributes;
    const amount = position.count;
    for (let v = 0; v < amount; v++) {
      point.fromBufferAttribute(position, v).applyMatrix4(matrix);
      point.toArray(positions, 3 * (base + v));
      point.fromBufferAttribute(normal, v).transformDirection(normalMatrix);
      point.toArray(streams.get("normal")!, 3 * (base + v));
    }
    for (const name of names) {
      const given = geometry.attributes[name];
      if (!given || name === "normal") continue;
      const into = streams.get(name)!;
      const width = STREAMS[name];
      for (let v = 0; v < amount; v++) {
        four.fromBufferAttribute(given as BufferAttribute, v);
        if (name === "tangent") {
          point.set(four.x, four.y, four.z).transformDirection(matrix);
          four.set(point.x, point.y, point.z, mirrored ? -four.w : four.w);
        }
        for (let k = 0; k < width; k++)
          into[width * (base + v) + k] = four.getComponent(k);
      }
    }
    const length = lengthOf(geometry);
    for (let i = 0; i < length; i++) {
      // A mirrored one is inside out: the order of its corners is turned.
      const from = mirrored && i % 3 ? i + (i % 3 === 1 ? 1 : -1) : i;
      indices[at++] =
        base + (geometry.index ? geometry.index.getX(from) : from);
    }
    base += amount;
  }
  const made = new BufferGeometry()
    .setAttribute("position", new BufferAttribute(positions, 3))
    .setIndex(new BufferAttribute(indices, 1));
  for (const [name, values] of streams)
    made.setAttribute(name, new BufferAttribute(values, STREAMS[name]));
  return made;
}

const lengthOf = ({ index, attributes }: BufferGeometry) =>
  index?.count ?? attributes.position.count;
