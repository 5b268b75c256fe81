import { expect, it } from "vitest";
import { recalled } from "./use-yard";

it("recalls how the yard was looked at, and nothing that is unsound or was for once", () => {
  const plain = recalled(null);
  expect(plain).toMatchObject({ copies: 1, light: "day", level: -1 });
  for (const kept of [
    "{",
    "null",
    "[]",
    '{"copies":1e9,"light":"night","hulls":"yes","level":4,"wrongGreen":true}',
  ])
    expect(recalled(kept)).toEqual(plain);
  const state = {
    ...plain,
    ...{ copies: 25, light: "dusk", hulls: true, walking: true },
  };
  expect(recalled(JSON.stringify(state))).toEqual(state);
});
