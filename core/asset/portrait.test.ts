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
