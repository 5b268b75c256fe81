import { readMeshFiles } from "../../formats/index";
import type { NamedMesh } from "../../formats/raw-mesh";
import type { Mesh } from "../../mesh/mesh";
import { triangulate } from "../../mesh/triangulate";

/** What a file was written from. */
export interface Written {
  parts: readonly NamedMesh[];
  /** By the part's name, nearest first. */
  levels?: ReadonlyMap<string, readonly NamedMesh[]>;
  /** Names of the hulls. */
  hulls?: readonly string[];
  /** Whether the format holds UVs, and materials. */
  uvs: boolean;
  materials: boolean;
  /** Whether the format tells parts apart. */
  parted: boolean;
  /** How far a place may be from where it was, metres; none where left out. */
  slack?: number;
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
  const hulls = new Set(written.hulls ?? []);
  const solid = read.parts.filter(
    ({ hull, level, written: name, mesh }) =>
      !level && (hull || (hulls.has(name) && mesh.materials.join() === "hull")),
  );
  const meshes = read.parts.filter(
    (part) => !part.level && !solid.includes(part),
  );
  if (written.parted)
    for (const { name, mesh } of written.parts)
      compare(
        found,
        name,
        [mesh],
        meshes.flatMap((part) => (part.name === name ? part.mesh : [])),
        written,
      );
  else
    compare(
      found,
      file,
      written.parts.map(({ mesh }) => mesh),
      meshes.map(({ mesh }) => mesh),
      written,
    );
  for (const [name, levels] of written.levels ?? [])
    levels.forEach(({ mesh }, l) =>
      compare(
        found,
        `level ${l + 1} of ${name}`,
        [mesh],
        read.parts.flatMap((part) =>
          part.level === l + 1 && part.written === name ? part.mesh : [],
        ),
        written,
      ),
    );
  const lost = [...hulls].filter(
    (name) => !solid.some((part) => part.written === name),
  );
  if (lost.length || solid.length !== hulls.size)
    found.differs.push(
      `${solid.length} of ${hulls.size} hulls${lost.length ? `: ${lost[0]} is missing` : ""}`,
    );
  return found;
}

function compare(
  found: ReadBack,
  name: string,
  given: readonly Mesh[],
  read: readonly Mesh[],
  { uvs, materials, slack = 0 }: Written,
): void {
  // What is no larger than places may be off can have become a point.
  const wanted = trianglesOf(given, 2 * slack);
  const got = trianglesOf(read, 0);
  const all = slack ? trianglesOf(given, 0).count : wanted.count;
  found.triangles += got.count;
  if (got.count < wanted.count || got.count > all)
    found.differs.push(`${name}: ${got.count} of ${all} triangles`);
  const match = new Triangles(got, slack);
  let lost = 0;
  for (let t = 0; t < wanted.count; t++) {
    const off = match.find(wanted, t, uvs);
    if (off === null) lost++;
    else found.uvs = Math.max(found.uvs, off);
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

/** Corners of triangles one after the other. */
interface TriangleList {
  count: number;
  /** 9 × count, metres. */
  places: Float32Array;
  /** 6 × count, or none. */
  uvs: Float32Array | null;
}

/** The triangles of meshes but those without area, which readers drop, or with an edge no longer than `least`. */
function trianglesOf(meshes: readonly Mesh[], least: number): TriangleList {
  const places: number[] = [];
  const uvs: number[] = [];
  let count = 0;
  let laid = meshes.length > 0;
  for (const mesh of meshes) {
    const { vertices, corners } = triangulate(mesh);
    const p = mesh.positions;
    laid &&= mesh.uvs !== null;
    for (let i = 0; i < vertices.length; i += 3) {
      const [a, b, c] = [0, 1, 2].map((k) => 3 * vertices[i + k]);
      const apart = (v: number, w: number) =>
        Math.hypot(p[v] - p[w], p[v + 1] - p[w + 1], p[v + 2] - p[w + 2]);
      if (Math.min(apart(a, b), apart(b, c), apart(c, a)) <= least) continue;
      count++;
      for (const v of [a, b, c]) places.push(p[v], p[v + 1], p[v + 2]);
      if (mesh.uvs)
        for (let k = 0; k < 3; k++) {
          const at = 2 * corners[i + k];
          uvs.push(mesh.uvs[at], mesh.uvs[at + 1]);
        }
    }
  }
  return {
    count,
    places: Float32Array.from(places),
    uvs: laid ? Float32Array.from(uvs) : null,
  };
}

/** Triangles by where they begin, to be found by where their corners lie. The same triangle begins at any of them. */
class Triangles {
  private readonly cells = new Map<string, number[]>();
  private readonly size: number;

  constructor(
    private readonly list: TriangleList,
    private readonly slack: number,
  ) {
    this.size = Math.max(4 * slack, 1e-9);
    for (let t = 0; t < list.count; t++)
      for (let k = 0; k < 3; k++) {
        const key = this.keyOf(list.places, 9 * t + 3 * k, 0, 0, 0);
        const cell = this.cells.get(key);
        if (cell) cell.push(3 * t + k);
        else this.cells.set(key, [3 * t + k]);
      }
  }

  private keyOf(p: Float32Array, at: number, x: number, y: number, z: number) {
    if (!this.slack) return `${p[at]} ${p[at + 1]} ${p[at + 2]}`;
    const cell = (k: number, off: number) =>
      Math.floor(p[at + k] / this.size) + off;
    return `${cell(0, x)} ${cell(1, y)} ${cell(2, z)}`;
  }

  /**
   * The triangle that lies where one of another list does, with the nearest UVs if there are several.
   * @returns how far its UVs are off in the largest of their numbers; null where there is no triangle
   */
  find(other: TriangleList, t: number, uvs: boolean): number | null {
    const reach = this.slack ? [-1, 0, 1] : [0];
    let best: number | null = null;
    for (const x of reach)
      for (const y of reach)
        for (const z of reach) {
          const key = this.keyOf(other.places, 9 * t, x, y, z);
          for (const code of this.cells.get(key) ?? []) {
            const off = this.compared(other, t, Math.floor(code / 3), code % 3);
            if (off === null) continue;
            const far = uvs ? off : 0;
            if (best === null || far < best) best = far;
          }
        }
    return best;
  }

  private compared(
    other: TriangleList,
    t: number,
    own: number,
    first: number,
  ): number | null {
    let far = 0;
    for (let k = 0; k < 3; k++) {
      const mine = 9 * own + 3 * ((first + k) % 3);
      const its = 9 * t + 3 * k;
      for (let n = 0; n < 3; n++)
        if (
          Math.abs(this.list.places[mine + n] - other.places[its + n]) >
          this.slack
        )
          return null;
      if (!other.uvs || !this.list.uvs) {
        if (other.uvs !== this.list.uvs) far = 1;
        continue;
      }
      for (let n = 0; n < 2; n++)
        far = Math.max(
          far,
          Math.abs(
            this.list.uvs[6 * own + 2 * ((first + k) % 3) + n] -
              other.uvs[6 * t + 2 * k + n],
          ),
        );
    }
    return far;
  }
}
