import {
  BufferAttribute,
  BufferGeometry,
  Color,
  EdgesGeometry,
  LineBasicMaterial,
  LineSegments,
  Mesh as ThreeMesh,
  MeshBasicMaterial,
} from "three";

/** Edges of hulls that bend less than this are not drawn, degrees. */
const FLAT_HULL = 8;

/** A hull as a see-through solid with its edges, all in one colour. */
export function hullShape(
  positions: Float32Array,
  triangles: Uint32Array,
  paint: string,
): [ThreeMesh, LineSegments] {
  const shape = new BufferGeometry()
    .setAttribute("position", new BufferAttribute(positions, 3))
    .setIndex(new BufferAttribute(triangles, 1));
  const colour = new Color(paint);
  return [
    new ThreeMesh(
      shape,
      new MeshBasicMaterial({
        color: colour,
        transparent: true,
        opacity: 0.3,
        depthWrite: false,
      }),
    ),
    new LineSegments(
      new EdgesGeometry(shape, FLAT_HULL),
      new LineBasicMaterial({
        color: colour.clone().multiplyScalar(0.5),
        transparent: true,
        opacity: 0.6,
        depthTest: false,
      }),
    ),
  ];
}
