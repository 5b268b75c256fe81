import { describe, expect, it } from "vitest";
import { findOperation } from "../../core/operations";
import { fieldsOf } from "../../core/asset/operation";
import type { Sources } from "./field-sources";
import { isAskedFor, takenFrom, valueFrom } from "./field-sources";

const NOTHING: Sources = {
  selected: [],
  hidden: [],
  edges: [],
  chosenHulls: [],
  faceList: [],
  facesOf: "source",
  camera: null,
};
const fieldsFor = (id: string) => fieldsOf(findOperation(id));
const field = (id: string, name: string) =>
  fieldsFor(id).find((each) => each.name === name)!;

describe("what a form takes from the view", () => {
  it("are the parts that are baked, and not which of them are cards", () => {
    const view: Sources = { ...NOTHING, selected: ["net"], hidden: ["lid"] };
    expect(takenFrom(fieldsFor("bake/maps"), view)).toEqual({
      parts: ["net"],
      hidden: ["lid"],
    });
    // What was hidden once is not hidden for ever.
    expect(takenFrom(fieldsFor("bake/maps"), NOTHING)).toMatchObject({
      hidden: [],
    });
    expect(isAskedFor(field("bake/maps", "cards"), view)).toBe(false);
    expect(isAskedFor(field("bake/maps", "cards"), NOTHING)).toBe(false);
  });

  it("are the chosen parts, faces with their mesh, and edges", () => {
    const view: Sources = {
      ...NOTHING,
      selected: ["lid"],
      edges: ["lid:0-1"],
      faceList: ["lid:0-4"],
      facesOf: "game",
    };
    expect(takenFrom(fieldsFor("unwrap/unfold"), view)).toEqual({
      parts: ["lid"],
      faces: ["lid:0-4"],
      mesh: "game",
      pins: ["lid:0-1"],
    });
    // Edges of a game mesh guide nothing over the source.
    const quads = fieldsFor("reduce/even-quads");
    expect(takenFrom(quads, view)).not.toHaveProperty("guides");
    expect(takenFrom(quads, { ...view, facesOf: "source" })).toMatchObject({
      guides: ["lid:0-1"],
    });
  });

  it("is nothing where nothing is chosen, so that what was set before stays", () => {
    expect(takenFrom(fieldsFor("unwrap/unfold"), NOTHING)).toEqual({
      parts: [],
      pins: [],
    });
  });

  it("is the way towards the eye, of length one, for what is projected from there", () => {
    const camera = { yaw: 0.7, pitch: 0.3, distance: 3 } as Sources["camera"];
    const given = takenFrom(fieldsFor("unwrap/project"), {
      ...NOTHING,
      camera,
    }) as Record<string, number>;
    const way = [given.towardsX, given.towardsY, given.towardsZ];
    expect(Math.hypot(...way)).toBeCloseTo(1, 12);
    expect(way[1]).toBeCloseTo(Math.sin(0.3), 12);
    expect(way[0] / way[2]).toBeCloseTo(Math.tan(0.7), 12);
    expect(valueFrom("camera y", NOTHING)).toBeUndefined();
  });

  it("is not asked for, but which mesh to work on where no face says it", () => {
    const mesh = field("reduce/skin-over", "mesh");
    expect(isAskedFor(mesh, NOTHING)).toBe(true);
    expect(isAskedFor(mesh, { ...NOTHING, faceList: ["lid:1"] })).toBe(false);
    expect(isAskedFor(field("unwrap/project", "towardsX"), NOTHING)).toBe(
      false,
    );
    expect(isAskedFor(field("unwrap/unfold", "mesh"), NOTHING)).toBe(false);
    expect(isAskedFor(field("unwrap/unfold", "what"), NOTHING)).toBe(true);
  });
});
