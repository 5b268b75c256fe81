import { Box3, PerspectiveCamera, Vector3 } from "three";
import { describe, expect, it } from "vitest";
import { cube, joined, moved, sphere, tubeMesh } from "../../tests/shapes";
import { indicesOf, fromRanges } from "../../core/base/ranges";
import type { Mesh } from "../../core/mesh/mesh";
import { faceCount } from "../../core/mesh/mesh";
import { POLYGONS, RAMP, UNSEEN, faceColours } from "./face-colours";
import { edgeLines, surfaceGeometry } from "./geometry";
import { FOV, Orbit } from "./orbit";
import { edgeName, nearestCorner } from "./picking";
import { PartView } from "./part-view";
import { FaceSelection } from "./selection";
import { Measure, PlaceMarks, normalLines } from "./surroundings";

/** `#rrggbb` of linear light. */
function hex(rgb: ArrayLike<number>, at: number): string {
  const channel = (x: number) => {
    const s = x <= 0.0031308 ? 12.92 * x : 1.055 * x ** (1 / 2.4) - 0.055;
    return Math.round(255 * s)
      .toString(16)
      .padStart(2, "0");
  };
  return `#${[0, 1, 2].map((k) => channel(rgb[3 * at + k])).join("")}`;
}

describe("the camera", () => {
  const camera = new PerspectiveCamera(FOV, 1, 0.01, 100);
  const inView = (orbit: Orbit, point: Vector3, aspect: number) => {
    orbit.place(camera, aspect);
    const seen = point.clone().project(camera);
    return Math.max(Math.abs(seen.x), Math.abs(seen.y));
  };

  it.each([0.4, 1, 2.5])("frames all of a box, aspect %s", (aspect) => {
    const box = new Box3(new Vector3(-1, 0, -3), new Vector3(2, 0.3, 1));
    const orbit = new Orbit();
    orbit.frame(box, aspect);
    let most = 0;
    for (let k = 0; k < 8; k++) {
      const corner = new Vector3(
        k & 1 ? box.max.x : box.min.x,
        k & 2 ? box.max.y : box.min.y,
        k & 4 ? box.max.z : box.min.z,
      );
      most = Math.max(most, inView(orbit, corner, aspect));
    }
    expect(most).toBeLessThan(1);
    expect(most).toBeGreaterThan(0.7);
  });

  it("keeps where it looks from when it looks at a place", () => {
    const orbit = new Orbit();
    orbit.frame(new Box3(new Vector3(-1, -1, -1), new Vector3(1, 1, 1)), 1);
    orbit.move("orbit", 50, 20, 600);
    const { yaw, pitch } = orbit.at!;
    orbit.lookAt([3, 4, 5], 0.1);
    expect(orbit.at).toMatchObject({ yaw, pitch, target: [3, 4, 5] });
    expect(inView(orbit, new Vector3(3, 4, 5), 1)).toBeLessThan(1e-6);
  });

  it("moves what it looks at as far as the pointer went", () => {
    const orbit = new Orbit();
    orbit.frame(new Box3(new Vector3(-1, -1, -1), new Vector3(1, 1, 1)), 1);
    const before = new Vector3(...orbit.at!.target);
    orbit.move("pan", 100, 0, 600);
    orbit.place(camera, 1);
    const seen = before.project(camera);
    expect(seen.x).toBeCloseTo((2 * 100) / 600, 5);
    expect(seen.y).toBeCloseTo(0, 5);
  });

  it("never turns over the top, and nothing moves before it is framed", () => {
    const orbit = new Orbit();
    orbit.move("orbit", 5, 5, 600);
    expect(orbit.at).toBeNull();
    orbit.frame(new Box3(new Vector3(0, 0, 0), new Vector3(1, 1, 1)), 1);
    orbit.move("orbit", 0, 99999, 600);
    expect(orbit.at!.pitch).toBeLessThan(Math.PI / 2);
  });
});

describe("colours over the surface", () => {
  it("tell triangles, quads and n-gons apart", () => {
    const quads = faceColours(cube(), "polygons", [], 0)!;
    expect(hex(quads, 0)).toBe(POLYGONS.quad);
    expect(hex(faceColours(sphere(4, 5), "polygons", [], 0)!, 0)).toBe(
      POLYGONS.triangle,
    );
  });

  it("are the palette's, grey where a face has no ID", () => {
    const mesh: Mesh = { ...cube(), ids: Uint16Array.from([1, 2, 0, 9, 1, 1]) };
    const palette = [
      { name: "a", colour: "#102030" },
      { name: "b", colour: "#a0b0c0" },
    ];
    const colours = faceColours(mesh, "ids", palette, 0)!;
    expect([0, 1, 2, 3].map((f) => hex(colours, f))).toEqual([
      "#102030",
      "#a0b0c0",
      "#c9c9c4",
      "#c9c9c4",
    ]);
  });

  it("run along the ramp by how much is seen, and mark what is not", () => {
    const mesh: Mesh = {
      ...cube(),
      visibility: Uint8Array.from([0, 10, 255, 128, 64, 1]),
    };
    const colours = faceColours(mesh, "seen", [], 0)!;
    expect(hex(colours, 0)).toBe(UNSEEN);
    expect(hex(colours, 2)).toBe(RAMP[RAMP.length - 1]);
    const stricter = faceColours(mesh, "seen", [], 0.05)!;
    expect(hex(stricter, 1)).toBe(UNSEEN);
    expect(faceColours(cube(), "seen", [], 0)).toBeNull();
    expect(faceColours(cube(), "none", [], 0)).toBeNull();
  });

  it("rise in lightness all along the ramp", () => {
    const light = RAMP.map((colour) => {
      const [r, g, b] = [1, 3, 5].map((k) =>
        parseInt(colour.slice(k, k + 2), 16),
      );
      return 0.2126 * r + 0.7152 * g + 0.0722 * b;
    });
    for (let i = 1; i < light.length; i++)
      expect(light[i]).toBeGreaterThan(light[i - 1]);
  });
});

describe("choosing on the table", () => {
  /** A part as the view has it once its meshes are there. */
  function viewOf(name: string, source: Mesh): PartView {
    const view = new PartView(name, 1, () => []);
    view.sourceMesh = source;
    return view;
  }
  const two = joined(cube(), moved(cube(), 5, 0, 0));
  const point = new Vector3(0, 0, 1);

  it("adds, takes away and begins anew", () => {
    const selection = new FaceSelection();
    const view = viewOf("two", two);
    selection.choose(view, "component", 7, point, "only", 0);
    expect(selection.faces()).toEqual({ two: "6-11" });
    expect(selection.figures(1, 1)).toMatchObject({ faces: 6, triangles: 12 });
    expect(selection.figures(1, 1).area).toBeCloseTo(24, 5);
    selection.choose(view, "face", 8, point, "remove", 0);
    selection.choose(view, "face", 0, point, "add", 0);
    expect(selection.faces()).toEqual({ two: "0,6-7,9-11" });
    selection.choose(view, "flood", 3, point, "only", 10);
    expect(selection.faces()).toEqual({ two: "3" });
  });

  it("grows, inverts, takes all, and reads back what the page sends", () => {
    const selection = new FaceSelection();
    const view = viewOf("two", two);
    selection.set("source", { two: "0", gone: "1" }, new Map([["two", view]]));
    selection.alter("grow", [view]);
    expect(selection.figures(1, 1).faces).toBe(5);
    selection.alter("invert", [view]);
    expect(selection.figures(1, 1).faces).toBe(7);
    selection.alter("all", [view]);
    expect(selection.faces()).toEqual({ two: "0-11" });
    selection.set("source", { two: "0-99" }, new Map([["two", view]]));
    expect(selection.faces()).toEqual({});
  });

  it("takes the faces in a box that look at the camera", () => {
    const selection = new FaceSelection();
    const view = viewOf("ball", sphere(12, 16));
    const camera = new PerspectiveCamera(40, 1, 0.1, 50);
    camera.position.set(0, 0, 6);
    camera.lookAt(0, 0, 0);
    camera.updateMatrixWorld();
    const whole = { left: -1, right: 1, bottom: -1, top: 1 };
    selection.chooseInBox([view], camera, whole, "only");
    const half = selection.figures(1, 1).faces;
    expect(half).toBeGreaterThan(0.3 * faceCount(view.sourceMesh!));
    expect(half).toBeLessThan(0.55 * faceCount(view.sourceMesh!));
    selection.chooseInBox([view], camera, { ...whole, left: 0 }, "only");
    expect(selection.figures(1, 1).faces).toBeLessThan(0.6 * half);
  });

  it("finds the edge, loop and ring nearest to a point", () => {
    const selection = new FaceSelection();
    const tube = tubeMesh(8, 4, 1, 4);
    const view = viewOf("tube", tube);
    const beside = new Vector3(1, 2.02, -0.35);
    const corner = nearestCorner(tube, beside);
    expect(tube.corners[corner]).toBeGreaterThanOrEqual(16);
    expect(selection.edgesAt(view, "edge", beside)).toHaveLength(1);
    expect(selection.edgesAt(view, "loop", beside)).toHaveLength(8);
    expect(selection.edgesAt(view, "ring", beside)).toHaveLength(5);
    expect(edgeName("tube", 9, 4)).toBe("tube:4-9");
  });
});

describe("what stands about", () => {
  it("a figure is 1.75 m high and stands beside the asset, on its ground", () => {
    const measure = new Measure();
    measure.place(new Box3(new Vector3(-1, 3, -1), new Vector3(1, 5, 1)), true);
    measure.object.updateMatrixWorld(true);
    const [figure] = measure.object.children;
    const box = new Box3().setFromObject(figure);
    expect(box.max.y - box.min.y).toBeCloseTo(1.75, 2);
    expect(box.min.y).toBeCloseTo(3, 2);
    expect(box.min.x).toBeGreaterThan(1);
  });

  it("a finding shows its faces, edges and vertices, and nothing of a mesh that has changed", () => {
    const marks = new PlaceMarks();
    const place = {
      part: "box",
      at: [0, 0, 0] as [number, number, number],
      radius: 1,
      faces: "0-1",
      edges: [0, 1],
      vertices: [3],
    };
    marks.show(place, cube());
    expect(marks.object.children).toHaveLength(3);
    marks.show({ ...place, vertices: [99] }, cube());
    expect(marks.object.children).toHaveLength(0);
    marks.show(null, null);
    expect(marks.object.children).toHaveLength(0);
  });

  it("normals are as many as faces or corners, and not more than can be read", () => {
    const lines = (mesh: Mesh, of: "faces" | "vertices") =>
      normalLines(mesh, of, 0.1).getAttribute("position").count / 2;
    expect(lines(cube(), "faces")).toBe(6);
    expect(lines(cube(), "vertices")).toBe(24);
    expect(lines(sphere(300, 400), "vertices")).toBeLessThanOrEqual(60_001);
  });

  it("a surface keeps its corners apart only where something parts them", () => {
    const smooth = surfaceGeometry(cube());
    expect(smooth.getAttribute("position").count).toBe(8);
    const hard = surfaceGeometry({
      ...cube(),
      hard: new Uint8Array(24).fill(1),
    });
    expect(hard.getAttribute("position").count).toBe(36);
    expect(edgeLines(cube(), () => true).getAttribute("position").count).toBe(
      24,
    );
    expect(indicesOf(fromRanges("0-2", 6))).toEqual([0, 1, 2]);
  });
});
