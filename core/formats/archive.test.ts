import { unzipSync } from "fflate";
import { expect, it } from "vitest";
import { plainContext } from "../base/context";
import { CancelledError } from "../base/errors";
import { unzipFiles, zipFiles } from "./archive";

const text = (words: string) => new TextEncoder().encode(words);
/** Comparing one by one takes minutes for millions of bytes. */
const same = (a: Uint8Array, b: Uint8Array) => Buffer.compare(a, b) === 0;
const FILES = [
  { name: "head.json", bytes: text("{}") },
  { name: "maps/ao.png", bytes: new Uint8Array(300).fill(7) },
  { name: "empty", bytes: new Uint8Array() },
  { name: "large.bin", bytes: new Uint8Array(9 * 2 ** 20).fill(3) },
];

it("gives back what was packed, by any reader, and the same bytes each time", () => {
  const archive = zipFiles(FILES, plainContext());
  for (const read of [unzipSync(archive), unzipFiles("a.zip", archive)]) {
    expect(Object.keys(read)).toEqual(FILES.map(({ name }) => name));
    for (const { name, bytes } of FILES)
      expect(same(read[name], bytes)).toBe(true);
  }
  expect(same(zipFiles(FILES, plainContext()), archive)).toBe(true);
  // Pictures as they are, all else packed.
  expect(archive.length).toBeGreaterThan(300);
  expect(archive.length).toBeLessThan(20_000);
});

it("gives back what a packer that is given pieces went wrong on: mostly small numbers, now and then a large one", () => {
  // The plainest generator there is: the very numbers matter.
  let state = 158;
  const random = () =>
    (state = (Math.imul(state, 1664525) + 1013904223) >>> 0) / 2 ** 32;
  random();
  const count = 37_838;
  const bytes = new Uint8Array(
    Uint32Array.from({ length: count }, () =>
      random() < 0.9 ? Math.floor(random() * 40) : Math.floor(random() * count),
    ).buffer,
  );
  const archive = zipFiles([{ name: "a.bin", bytes }], plainContext());
  expect(same(unzipFiles("a.zip", archive)["a.bin"], bytes)).toBe(true);
});

it("tells how far it is and stops within a file, reading and writing", () => {
  const shares: number[] = [];
  zipFiles(FILES, {
    check() {},
    progress: (share) => shares.push(share),
  });
  expect(shares.length).toBeGreaterThan(FILES.length);
  expect(shares).toEqual(shares.toSorted((a, b) => a - b));
  const archive = zipFiles(FILES, plainContext());
  for (const work of [
    (check: () => void) => zipFiles(FILES, { check, progress() {} }),
    (check: () => void) => unzipFiles("a.zip", archive, check),
  ]) {
    let calls = 0;
    expect(() =>
      work(() => {
        if (++calls === 4) throw new CancelledError();
      }),
    ).toThrow(CancelledError);
  }
});

it("reads no archive that says it grows beyond all measure", () => {
  const archive = zipFiles([{ name: "a", bytes: text("a") }], plainContext());
  // The central directory's size of the first file, unpacked (APPNOTE 4.3.12).
  const view = new DataView(archive.buffer);
  const at = archive.findIndex(
    (_, i) => i + 4 < archive.length && view.getUint32(i, true) === 0x02014b50,
  );
  view.setUint32(at + 24, 0x7fffffff, true);
  expect(() => unzipFiles("bomb.zip", archive)).toThrow(
    "bomb.zip: it says that it grows to more than 64 times",
  );
});

it("names an archive that is none, or a damaged one", () => {
  const archive = zipFiles(FILES, plainContext());
  for (const bytes of [new Uint8Array(), text("PK"), archive.subarray(0, 400)])
    expect(() => unzipFiles("torn.zip", bytes)).toThrow(
      "torn.zip: it is no archive, or a damaged one",
    );
});
