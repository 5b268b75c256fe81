import { faceComponents } from "../mesh/components";
import { crossingFaces } from "../mesh/crossings";
import type { Mesh } from "../mesh/mesh";
import type { Triangles } from "./soup";

/** The triangles of one mesh of a state with just the vertices they use. */
export function oneMesh<
  T extends Pick<Triangles, "positions" | "triangles" | "owner">,
>(state: T & Partial<Triangles>, mesh: number): Triangles {
  const { positions, triangles, owner, material, id } = state;
  const name = new Int32Array(positions.length / 3).fill(-1);
  const count = owner.reduce((sum, m) => sum + (m === mesh ? 1 : 0), 0);
  const corners = new Uint32Array(3 * count);
  const materials = new Uint16Array(count);
  const ids = new Uint16Array(count);
  const used: number[] = [];
  let at = 0;
  for (let t = 0; t < owner.length; t++) {
    if (owner[t] !== mesh) continue;
    for (let k = 0; k < 3; k++) {
      const v = triangles[3 * t + k];
      if (name[v] < 0) name[v] = used.push(v) - 1;
      corners[3 * at + k] = name[v];
    }
    materials[at] = material?.[t] ?? 0;
    ids[at++] = id?.[t] ?? 0;
  }
  const own = new Float64Array(3 * used.length);
  used.forEach((v, i) => {
    for (let k = 0; k < 3; k++) own[3 * i + k] = positions[3 * v + k];
  });
  return {
    positions: own,
    triangles: corners,
    owner: new Uint16Array(count).fill(mesh),
    material: materials,
    id: ids,
    centre: state.centre ?? [0, 0, 0],
  };
}

/**
 * Several states as one.
 * @param centre what the joined positions are about, metres
 */
export function joinStates(
  states: readonly Triangles[],
  centre: readonly number[],
): Triangles {
  const sum = (of: (state: Triangles) => number) =>
    states.reduce((total, state) => total + of(state), 0);
  const total = sum((state) => state.owner.length);
  const joined = {
    positions: new Float64Array(sum((state) => state.positions.length)),
    triangles: new Uint32Array(3 * total),
    owner: new Uint16Array(total),
    material: new Uint16Array(total),
    id: new Uint16Array(total),
    centre,
  };
  let base = 0;
  let at = 0;
  for (const state of states) {
    joined.positions.set(state.positions, 3 * base);
    joined.triangles.set(
      state.triangles.map((v) => v + base),
      3 * at,
    );
    joined.owner.set(state.owner, at);
    joined.material.set(state.material, at);
    joined.id.set(state.id, at);
    base += state.positions.length / 3;
    at += state.owner.length;
  }
  return joined;
}

/** Numbers of the triangles of a state that pass through others. */
export function crossingIn(mesh: Triangles, check: () => void): number[] {
  const count = mesh.owner.length;
  const positions = Float32Array.from(mesh.positions);
  const faces = Uint32Array.from({ length: count }, (_, t) => t);
  const faceStarts = Uint32Array.from({ length: count + 1 }, (_, t) => 3 * t);
  const { ofFace } = faceComponents({
    positions,
    corners: mesh.triangles,
    faceStarts,
  } as Mesh);
  const alone = Uint32Array.from({ length: positions.length / 3 }, (_, v) => v);
  return crossingFaces(positions, mesh.triangles, faces, ofFace, alone, check)
    .faces;
}
