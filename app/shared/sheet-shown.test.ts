import { expect, it } from "vitest";
import type { AssetDocument } from "../../core/asset/document";
import { sheetShown } from "./sheet-shown";

const maps = (...kinds: string[]) =>
  ({
    maps: kinds.map((kind) => ({ kind })),
    painted: null,
  }) as unknown as AssetDocument;

it("shows the islands where a remembered map is no longer baked, or not yet", () => {
  expect(sheetShown("normal", maps())).toBe("islands");
  expect(sheetShown("curvature", maps("normal", "ao"))).toBe("islands");
  expect(sheetShown("painted", maps("normal"))).toBe("islands");
});

it("shows what is wanted where it is there", () => {
  expect(sheetShown("curvature", maps("curvature"))).toBe("curvature");
  for (const each of ["islands", "checker"] as const)
    expect(sheetShown(each, maps())).toBe(each);
});
