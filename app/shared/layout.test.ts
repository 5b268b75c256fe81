import fc from "fast-check";
import { Box3, PerspectiveCamera, Vector3 } from "three";
import { describe, expect, it } from "vitest";
import type { Rect } from "./layout";
import { clearOf, isWithin, layoutOf } from "./layout";
import { FOV, Orbit } from "../view/orbit";
import { PartSet } from "../view/part-set";
import { SheetView } from "../view/sheet-view";

const sharing = fc.record({
  share: fc.double({ min: 0.05, max: 0.95, noNaN: true }),
  turned: fc.boolean(),
  first: fc.boolean(),
});
const edge = fc.integer({ min: 300, max: 3000 });
const cover = fc.record({
  above: fc.integer({ min: 0, max: 400 }),
  below: fc.integer({ min: 0, max: 400 }),
});

describe("table and sheet", () => {
  it("cover the room without a gap or an overlap, neither too narrow to use", () => {
    fc.assert(
      fc.property(edge, edge, sharing, (width, height, how) => {
        const { table, sheet } = layoutOf(width, height, how);
        const size = (rect: Rect) => rect.width * rect.height;
        expect(size(table) + size(sheet!)).toBe(width * height);
        for (const rect of [table, sheet!])
          expect(Math.min(rect.width, rect.height)).toBeGreaterThanOrEqual(139);
        const [x, y] = [sheet!.left + 1, sheet!.top + 1];
        expect(isWithin(sheet!, x, y)).toBe(true);
        expect(isWithin(table, x, y)).toBe(false);
        expect(how.first).toBe(
          how.turned ? sheet!.top < table.top : sheet!.left < table.left,
        );
      }),
    );
  });

  it("leave it all to the table where there is no sheet", () => {
    expect(layoutOf(700, 500, { share: 0, turned: true, first: true })).toEqual(
      {
        table: { left: 0, top: 0, width: 700, height: 500 },
        sheet: null,
      },
    );
  });

  it("are clear where nothing lies over them, and half of them always", () => {
    fc.assert(
      fc.property(edge, edge, cover, (width, height, covered) => {
        const rect = { left: 7, top: 11, width, height };
        const clear = clearOf(rect, covered);
        expect(clear.top).toBeGreaterThanOrEqual(rect.top);
        expect(clear.top + clear.height).toBeLessThanOrEqual(
          rect.top + height + 1e-9,
        );
        expect(clear.height).toBeGreaterThanOrEqual(height / 2 - 1e-9);
        if (covered.above + covered.below <= height / 2)
          expect(clear.height).toBe(height - covered.above - covered.below);
      }),
    );
  });
});

describe("what is framed", () => {
  const box = new Box3(new Vector3(-1, 0, -2), new Vector3(2, 3, 1));
  const corners = [...Array(8).keys()].map(
    (k) =>
      new Vector3(
        k & 1 ? box.max.x : box.min.x,
        k & 2 ? box.max.y : box.min.y,
        k & 4 ? box.max.z : box.min.z,
      ),
  );
  /** Pixels of the holder that a point of the world is drawn at. */
  const pixelOf = (orbit: Orbit, point: Vector3, rect: Rect, clear: Rect) => {
    const camera = new PerspectiveCamera(FOV, 1, 0.01, 100);
    orbit.placeIn(camera, rect, clear);
    const { x, y } = point.clone().project(camera);
    return [
      rect.left + ((x + 1) / 2) * rect.width,
      rect.top + ((1 - y) / 2) * rect.height,
    ];
  };

  it("lies in the clear part of the table, however that is split", () => {
    fc.assert(
      fc.property(edge, edge, sharing, cover, (width, height, how, covered) => {
        const { table } = layoutOf(width, height, how);
        const clear = clearOf(table, covered);
        const orbit = new Orbit();
        orbit.frame(box, clear.width / clear.height);
        for (const corner of corners)
          expect(
            isWithin(
              clear,
              ...(pixelOf(orbit, corner, table, clear) as [number, number]),
            ),
          ).toBe(true);
      }),
      { numRuns: 60 },
    );
  });

  it("stays whole when the sheet takes most of the room afterwards", () => {
    const wide = { left: 0, top: 0, width: 1200, height: 700 };
    const orbit = new Orbit();
    orbit.frame(box, wide.width / wide.height);
    const narrow = { ...wide, width: 300 };
    for (const corner of corners) {
      const [x] = pixelOf(orbit, corner, narrow, narrow);
      expect(x).toBeGreaterThanOrEqual(-30);
      expect(x).toBeLessThanOrEqual(330);
    }
  });

  it("keeps what lies under the pointer there while one goes nearer", () => {
    const rect = { left: 40, top: 20, width: 900, height: 600 };
    const clear = clearOf(rect, { above: 30, below: 90 });
    const orbit = new Orbit();
    orbit.frame(box, clear.width / clear.height);
    // A point in the plane through the one that is looked at.
    const right = new Vector3(
      Math.cos(orbit.at!.yaw),
      0,
      -Math.sin(orbit.at!.yaw),
    );
    const point = new Vector3(...orbit.at!.target).addScaledVector(right, 0.8);
    const [x, y] = pixelOf(orbit, point, rect, clear);
    orbit.zoom(
      -600,
      x - clear.left - clear.width / 2,
      clear.top + clear.height / 2 - y,
      Math.min(clear.width, clear.height),
    );
    const [u, v] = pixelOf(orbit, point, rect, clear);
    expect(u).toBeCloseTo(x, 3);
    expect(v).toBeCloseTo(y, 3);
  });

  it("turns about the point that was asked for, seen in the middle", () => {
    const rect = { left: 0, top: 0, width: 900, height: 600 };
    const orbit = new Orbit();
    orbit.frame(box, 1.5);
    const { yaw, distance } = orbit.at!;
    orbit.turnAbout([0.5, 1, -1]);
    expect(orbit.at).toMatchObject({ yaw, distance });
    const point = new Vector3(0.5, 1, -1);
    for (const turn of [0, 120]) {
      orbit.move("orbit", turn, 0, 600);
      const [x, y] = pixelOf(orbit, point, rect, rect);
      expect([x, y].map(Math.round)).toEqual([450, 300]);
    }
  });
});

describe("the sheet", () => {
  const rect = { left: 300, top: 0, width: 500, height: 700 };
  const clear = clearOf(rect, { above: 30, below: 60 });
  const drawn = () => {
    const sheet = new SheetView(new PartSet(null as never));
    const nothing = () => {};
    const renderer = {
      setScissor: nothing,
      setClearColor: nothing,
      clear: nothing,
      setViewport: nothing,
      render: nothing,
    };
    sheet.render(renderer as never, { rect, clear }, [300, 0, 500, 700], false);
    return sheet;
  };

  it("lies whole in what is clear of its part", () => {
    const sheet = drawn();
    const [u0, v1] = sheet.uvAt(clear.left, clear.top);
    const [u1, v0] = sheet.uvAt(
      clear.left + clear.width,
      clear.top + clear.height,
    );
    for (const low of [u0, v0]) expect(low).toBeLessThan(0);
    for (const high of [u1, v1]) expect(high).toBeGreaterThan(1);
    expect(u1 - u0).toBeCloseTo(1.08, 5);
  });

  it("keeps what lies under the pointer there while one goes nearer", () => {
    const sheet = drawn();
    const before = sheet.uvAt(420, 500);
    sheet.zoom(-400, 420, 500);
    const after = sheet.uvAt(420, 500);
    expect(after[0]).toBeCloseTo(before[0], 6);
    expect(after[1]).toBeCloseTo(before[1], 6);
    expect(sheet.uvAt(421, 500)[0] - after[0]).toBeLessThan(0.0015);
  });
});
