// @vitest-environment happy-dom
import { mount } from "@vue/test-utils";
import { unzipSync } from "fflate";
import { createPinia, setActivePinia } from "pinia";
import { beforeEach, describe, expect, it } from "vitest";
import { Stopped } from "../stores/api";
import { useWorkshop } from "../stores/workshop";
import type { Portrayed } from "./portraits";
import { usePortraits } from "./portraits";

const TURN = { frames: 4, size: 64 };

/** A view that waits with its pictures, and a call that takes some of it. */
function taking(isReady = true) {
  let got: Portrayed = () => {};
  const asked: unknown[] = [];
  const view = mount({
    setup() {
      usePortraits({
        ready: () => isReady,
        ask: (shots, parts, told) => {
          asked.push(shots && parts);
          got = told;
        },
      });
      return () => null;
    },
  });
  const maker = useWorkshop().portray!("ship/turntable", TURN);
  const abort = new AbortController();
  const shares: number[] = [];
  const files = maker?.((share) => void shares.push(share), abort.signal);
  const give = (name: string) =>
    got({ name, png: Uint8Array.of(Number(name)).buffer });
  return { view, asked, abort, shares, files, give, fail: () => got(null) };
}

beforeEach(() => setActivePinia(createPinia()));

describe("pictures that the view takes for a call", () => {
  it("go with it in one archive, and those of a call before do not", async () => {
    const { shares, files, give } = taking();
    for (const name of ["000", "000", "077", "001", "003", "002"]) give(name);
    const [file] = (await files)!;
    const found = unzipSync(new Uint8Array(await file.arrayBuffer()));
    expect(Object.keys(found).sort()).toEqual(
      ["000", "001", "002", "003"].map((name) => `${name}.png`),
    );
    expect(shares).toEqual([0.25, 0.5, 0.75, 1]);
  });

  it("are given up where the view fails or goes, and stopped where that is asked for", async () => {
    const failing = taking();
    failing.fail();
    await expect(failing.files).rejects.toThrow("the view has failed");
    const going = taking();
    going.give("000");
    going.view.unmount();
    await expect(going.files).rejects.toThrow("the view has gone");
    expect(useWorkshop().portray).toBe(null);
    const stopped = taking();
    stopped.abort.abort();
    await expect(stopped.files).rejects.toBeInstanceOf(Stopped);
    expect(stopped.asked).toEqual([[], null]);
  });

  it("are not waited for while it is not ready", () => {
    expect(taking(false).files).toBe(undefined);
  });
});
