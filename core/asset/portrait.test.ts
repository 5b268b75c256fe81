import { expect, it } from "vitest";
import { cube, moved, scaled, sphere } from "../../tests/shapes";
import { createAsset, createPart } from "./asset";
import type { PartStandIn } from "./asset";
import { portrait } from "./portrait";

it("shows the source of a part that a card stands for: without its mask that would be a board", () => {
  const part = createPart("net", 0, {
    source: scaled(sphere(), 0.2),
    game: cube(),
  });
  const float = createPart("float", 1, { source: moved(cube(), 2, 0, 0) });
  const standIns = [{ shape: "card" }] as unknown as PartStandIn[];
  const picture = (net: typeof part) => [
    ...portrait(createAsset("net", [net, float]), 32, 24)!,
  ];
  const net = picture({ ...part, standIns });
  expect(net).not.toEqual(picture(part));
  expect(net).toEqual(picture({ ...part, game: part.source }));
});

it("lights a ball from the upper left, over a ground that goes all round", () => {
  const [width, height] = [48, 48];
  const ball = createPart("ball", 0, { source: sphere(24, 32) });
  const pixels = portrait(createAsset("ball", [ball]), width, height)!;
  expect(pixels).toHaveLength(3 * width * height);
  const light = (x: number, y: number) =>
    pixels
      .subarray(3 * (y * width + x), 3 * (y * width + x) + 3)
      .reduce((sum, each) => sum + each, 0);
  expect(light(18, 16)).toBeGreaterThan(light(31, 33) + 60);
  // Clay is warm, the ground is not.
  const warmth = (x: number, y: number) => {
    const at = 3 * (y * width + x);
    return pixels[at] - pixels[at + 2];
  };
  expect(warmth(24, 24)).toBeGreaterThan(10);
  for (const [x, y] of [
    [1, 1],
    [46, 1],
    [1, 46],
    [46, 46],
  ])
    expect(warmth(x, y)).toBeLessThan(5);
  const game = portrait(
    createAsset("ball", [createPart("ball", 0, { game: sphere(24, 32) })]),
    width,
    height,
  )!;
  const middle = 3 * (24 * width + 24);
  expect(game[middle + 2]).toBeGreaterThan(pixels[middle + 2]);
  expect(portrait(createAsset("none", []), width, height)).toBeNull();
});
