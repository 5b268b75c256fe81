import { BufferGeometry, Mesh } from "three";
import type { LineBasicMaterial, LineSegments } from "three";
import { expect, it } from "vitest";
import { boxMesh } from "../../core/mesh/collider-shape";
import { WORLD_AXES } from "../../core/space/principal-axes";
import { HullObject } from "./hull-object";

const box = boxMesh(WORLD_AXES, [
  [0, 1],
  [0, 2],
  [0, 3],
]);
const made = () => new HullObject({ name: "a", kind: "box", ...box }, "a", 0);
const drawn = ({ object }: HullObject) => {
  const [surface, edges] = object.children as [Mesh, LineSegments];
  return {
    solid: surface.visible,
    colour: (edges.material as LineBasicMaterial).color.getHexString(),
    highest: Math.max(...surface.geometry.getAttribute("position").array),
  };
};

it("a hull is drawn as a solid or by its edges, and chosen in another colour", () => {
  const hull = made();
  const plain = drawn(hull);
  expect(plain.solid).toBe(true);
  hull.applyStyle(true, false);
  expect(drawn(hull).solid).toBe(false);
  expect(drawn(hull).colour).not.toBe(plain.colour);
  hull.applyStyle(false, true);
  expect(drawn(hull)).toEqual(plain);
});

it("keeps how it looks while another shape is shown in its place", () => {
  const hull = made();
  hull.applyStyle(true, false);
  const { colour } = drawn(hull);
  hull.draw({ ...box, positions: box.positions.map((x) => 2 * x) });
  expect(drawn(hull)).toEqual({ solid: false, colour, highest: 6 });
});

it("colours lie in the place of its own until they are taken away", () => {
  const hull = made();
  const heat = new Mesh(new BufferGeometry());
  hull.showHeat(heat);
  expect(drawn(hull).solid).toBe(false);
  expect(hull.object.children).toContain(heat);
  // What is moved is not where they were found; it has them again once it is put back.
  hull.draw({ ...box, positions: box.positions.map((x) => 2 * x) });
  expect(heat.visible).toBe(false);
  hull.draw(hull.hull);
  expect(heat.visible).toBe(true);
  hull.showHeat(null);
  expect(drawn(hull).solid).toBe(true);
  expect(hull.object.children).not.toContain(heat);
});
