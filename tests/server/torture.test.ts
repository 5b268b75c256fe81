import { describe, expect, it } from "vitest";
import { torture } from "../torture/torture";

describe("store and queue under torture", () => {
  it("keep every promise: several clients, kills, a full disk", async () => {
    // How much is acknowledged hangs on who comes first: so often that it was enough.
    let acknowledged = 0;
    for (let seed = 11; acknowledged <= 10; seed++) {
      expect(seed).toBeLessThan(15);
      const { wrong, figures } = await torture(seed, 1, 160);
      expect(wrong).toEqual([]);
      expect(figures.byStatus[500] ?? 0).toBe(0);
      acknowledged += figures.acknowledged;
    }
  });
});
