import { describe, expect, it } from "vitest";
import { torture } from "../torture/torture";

describe("store and queue under torture", () => {
  it("keep every promise: several clients, kills, a full disk", async () => {
    const { wrong, figures } = await torture(11, 1, 160);
    expect(wrong).toEqual([]);
    expect(figures.acknowledged).toBeGreaterThan(10);
    expect(figures.byStatus[500] ?? 0).toBe(0);
  });
});
