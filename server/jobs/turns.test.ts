import { describe, expect, it } from "vitest";
import { BusyError } from "../store/errors";
import { Turns } from "./turns";

const later = () => {
  let go = () => {};
  const gone = new Promise<void>((resolve) => (go = resolve));
  return { go, gone };
};

describe("turns", () => {
  it("come in the order they were asked for, one at a time, by asset", async () => {
    const turns = new Turns();
    const first = later();
    const told: string[] = [];
    const all = [
      turns.take(1, async () => {
        await first.gone;
        told.push("one");
      }),
      turns.take(1, async () => void told.push("two")),
      turns.take(2, async () => void told.push("other asset")),
    ];
    await all[2];
    first.go();
    await Promise.all(all);
    expect(told).toEqual(["other asset", "one", "two"]);
  });

  it("go on after one that throws", async () => {
    const turns = new Turns();
    const failing = turns.take(1, () => Promise.reject(new Error("no")));
    const next = turns.take(1, () => Promise.resolve("yes"));
    await expect(failing).rejects.toThrow("no");
    expect(await next).toBe("yes");
  });

  it("are refused before the work while a job holds the asset, those that waited too", async () => {
    const turns = new Turns();
    const accepting = later();
    const worked: string[] = [];
    const job = turns.hold(1, () => accepting.gone);
    const waited = turns.take(1, async () => void worked.push("waited"));
    accepting.go();
    await job;
    await expect(waited).rejects.toBeInstanceOf(BusyError);
    await expect(
      turns.take(1, async () => void worked.push("late")),
    ).rejects.toThrow(/a job is under way/);
    expect(worked).toEqual([]);
    turns.release(1);
    await turns.take(1, async () => void worked.push("after"));
    expect(worked).toEqual(["after"]);
  });

  it("are not held by a job that was not accepted", async () => {
    const turns = new Turns();
    await expect(
      turns.hold(1, () => Promise.reject(new Error("full"))),
    ).rejects.toThrow("full");
    expect(await turns.take(1, () => Promise.resolve(7))).toBe(7);
  });

  it("are over for an asset that is being deleted, after the one under way", async () => {
    const turns = new Turns();
    const working = later();
    const begun = later();
    const change = turns.take(1, () => {
      begun.go();
      return working.gone;
    });
    await begun.gone;
    let over = false;
    const dooming = turns.doom(1).then(() => (over = true));
    await expect(turns.take(1, () => Promise.resolve())).rejects.toThrow(
      /being deleted/,
    );
    await expect(turns.doom(1)).rejects.toThrow(/being deleted/);
    expect(over).toBe(false);
    working.go();
    await Promise.all([change, dooming]);
    turns.spare(1);
    expect(await turns.take(1, () => Promise.resolve("there"))).toBe("there");
  });
});
