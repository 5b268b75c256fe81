import { readMeshFiles } from "../../formats/index";
import type { NamedMesh } from "../../formats/raw-mesh";
import type { Mesh } from "../../mesh/mesh";
import { triangulate } from "../../mesh/triangulate";

/** What a file was written from. */
export interface Written {
  parts: readonly NamedMesh[];
  levels?: ReadonlyMap<string, readonly Mesh[]>;
  hulls?: number;
  /** Whether the format holds UVs, and materials. */
  uvs: boolean;
  materials: boolean;
  /** Whether the format tells parts apart. */
  parted: boolean;
}

export interface ReadBack {
  file: string;
  triangles: number;
  /** The largest difference of a UV coordinate. */
  uvs: number;
  /** What is not as it was written; empty where all is. */
  differs: string[];
}

/** UVs may differ by so much. */
const UV_SLACK = 1e-5;

/** Reads a written file again and compares it with what it was written from: triangles, UVs, names, materials, levels, hulls. */
export async function readBack(
  file: string,
  bytes: Uint8Array,
  written: Written,
): Promise<ReadBack> {
  const found: ReadBack = { file, triangles: 0, uvs: 0, differs: [] };
  const read = await readMeshFiles([{ name: file, bytes }]);
  const meshes = written.parted
    ? written.parts
    : [{ name: "", mesh: null as unknown as Mesh }];
  for (const { name } of meshes) {
    const first = read.parts.filter(
      (part) =>
        !part.hull && !part.level && (!written.parted || part.name === name),
    );
    compare(
      found,
      written.parted ? name : file,
      written.parted
        ? written.parts.flatMap((part) => (part.name === name ? part.mesh : []))
        : written.parts.map(({ mesh }) => mesh),
      first.map(({ mesh }) => mesh),
      written,
    );
  }
  for (const [name, levels] of written.levels ?? [])
    levels.forEach((mesh, l) => {
      const same = read.parts.filter(
        (part) => part.level === l + 1 && part.written === name,
      );
      const at = `level ${l + 1} of ${name}`;
      compare(
        found,
        at,
        [mesh],
        same.map(({ mesh }) => mesh),
        written,
      );
    });
  const hulls = read.parts.filter(({ hull }) => hull).length;
  if (hulls !== (written.hulls ?? 0))
    found.differs.push(`${hulls} of ${written.hulls ?? 0} hulls`);
  return found;
}

function compare(
  found: ReadBack,
  name: string,
  given: readonly Mesh[],
  read: readonly Mesh[],
  { uvs, materials }: Written,
): void {
  const wanted = trianglesOf(given);
  const got = trianglesOf(read);
  found.triangles += got.count;
  if (wanted.count !== got.count)
    found.differs.push(`${name}: ${got.count} of ${wanted.count} triangles`);
  let lost = 0;
  for (const [key, all] of wanted.corners) {
    const same = got.corners.get(key);
    if (!same || same.length !== all.length) lost++;
    else if (uvs)
      for (const each of all)
        found.uvs = Math.max(found.uvs, nearest(each, same));
  }
  if (lost) found.differs.push(`${name}: ${lost} triangles lie elsewhere`);
  if (uvs && found.uvs > UV_SLACK)
    found.differs.push(`${name}: UVs differ by ${found.uvs.toPrecision(2)}`);
  if (!materials) return;
  const names = (meshes: readonly Mesh[]) =>
    [...new Set(meshes.flatMap(usedMaterials))].sort().join(", ");
  if (names(given) !== names(read))
    found.differs.push(`${name}: materials ${names(read)} for ${names(given)}`);
}

const usedMaterials = ({ materials, faceMaterials }: Mesh): string[] =>
  faceMaterials
    ? [...new Set(faceMaterials)].map((m) => materials[m])
    : materials.slice(0, 1);

/** Triangles by where their corners lie, each with its six UV numbers; those without area are left out: readers drop them. */
function trianglesOf(meshes: readonly Mesh[]) {
  const corners = new Map<string, number[][]>();
  let count = 0;
  for (const mesh of meshes) {
    const { vertices, corners: at } = triangulate(mesh);
    for (let i = 0; i < vertices.length; i += 3) {
      const places = [0, 1, 2].map((k) => {
        const v = 3 * vertices[i + k];
        const p = mesh.positions;
        return `${p[v]} ${p[v + 1]} ${p[v + 2]}`;
      });
      if (new Set(places).size < 3) continue;
      count++;
      // The same triangle begins at any of its corners.
      const first = places.indexOf(places.toSorted()[0]);
      const order = [first, (first + 1) % 3, (first + 2) % 3];
      const key = order.map((k) => places[k]).join(", ");
      const list = corners.get(key) ?? [];
      list.push(
        order.flatMap((k) => {
          const c = 2 * at[i + k];
          return mesh.uvs ? [mesh.uvs[c], mesh.uvs[c + 1]] : [];
        }),
      );
      corners.set(key, list);
    }
  }
  return { corners, count };
}

/** How far the nearest of some triangles' UVs are from one's, in the largest of its numbers; 1 where there are none. */
const nearest = (uvs: readonly number[], others: readonly number[][]) =>
  others.reduce(
    (least, other) =>
      Math.min(
        least,
        other.length === uvs.length
          ? uvs.reduce(
              (most, x, k) => Math.max(most, Math.abs(x - other[k])),
              0,
            )
          : 1,
      ),
    1,
  );
