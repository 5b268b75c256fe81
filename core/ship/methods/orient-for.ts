import type { DeliveryProfile } from "../../asset/profile";
import type { NamedMesh } from "../../formats/raw-mesh";

/** A part as a delivery profile wants it: in its unit, with its axis up. */
export function orientFor(
  { name, mesh }: NamedMesh,
  profile: DeliveryProfile,
): NamedMesh {
  if (profile.unit === 1 && profile.upAxis === "y") return { name, mesh };
  const zUp = profile.upAxis === "z";
  const turn = (values: Float32Array, scale: number) => {
    const turned = new Float32Array(values.length);
    for (let i = 0; i < values.length; i += 3) {
      turned[i] = values[i] * scale;
      turned[i + 1] = (zUp ? -values[i + 2] : values[i + 1]) * scale;
      turned[i + 2] = (zUp ? values[i + 1] : values[i + 2]) * scale;
    }
    return turned;
  };
  return {
    name,
    mesh: {
      ...mesh,
      positions: turn(mesh.positions, 1 / profile.unit),
      normals: mesh.normals && turn(mesh.normals, 1),
    },
  };
}
