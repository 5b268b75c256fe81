import { describe, expect, it } from "vitest";
import { STAGES } from "../../core/asset/stages";
import type { Tool } from "./view-types";
import { MEANS, meansOf, toolBy, toolFor, whatOf, whatsOf } from "./tools";

const TOOLS: Tool[] = [
  "part",
  "component",
  "material",
  "face",
  "flood",
  "edge",
  "loop",
  "ring",
  "paint",
  "stroke",
  "box",
  "island",
  "trace",
  "region",
];

describe("tools", () => {
  it("are each one thing by one means, and no two the same", () => {
    for (const tool of TOOLS)
      expect(toolFor(whatOf(tool), meansOf(tool))).toBe(tool);
    expect(new Set(TOOLS.map((t) => `${whatOf(t)} ${meansOf(t)}`)).size).toBe(
      TOOLS.length,
    );
  });

  it("asked for by a means go over to what that is for", () => {
    expect(toolBy("part", "brush")).toBe("paint");
    expect(toolBy("edge", "stroke")).toBe("stroke");
    expect(toolBy("face", "stroke")).toBe("stroke");
    expect(toolBy("loop", "click")).toBe("loop");
    expect(toolBy("stroke", "box")).toBe("box");
  });

  it("have a letter of their word for a key, no two the same at any stage", () => {
    for (const stage of STAGES) {
      const words = [...whatsOf(stage), ...MEANS];
      const keys = words.map(({ key }) => key);
      expect(new Set(keys).size, stage).toBe(keys.length);
      for (const { key, label } of words) expect(label).toContain(key);
    }
  });
});
