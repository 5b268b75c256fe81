import { writeFileSync } from "node:fs";
import { join } from "node:path";
import { decode } from "fast-png";
import type { ElementHandle } from "puppeteer-core";
import { afterAll, beforeAll, describe, expect, it } from "vitest";
import { plainContext } from "../../core/base/context";
import type { Asset } from "../../core/asset/asset";
import { createAsset, createPart } from "../../core/asset/asset";
import { zipFiles } from "../../core/formats/archive";
import { laidOn, squareSheet } from "../laid";
import { run } from "../one-part";
import { cube, moved, sphere } from "../shapes";
import { shippedFiles } from "../shipped";
import { pause, press, shows, sizeOf } from "./app";
import { Session } from "./session";

/** What was shipped, in the yard: by mouse and keyboard, from a file on disk. */

const session = new Session();
let shipped: Asset;
let whole: { name: string; bytes: Uint8Array }[];
let report: Awaited<ReturnType<typeof shippedFiles>>["report"];

/** What a figure says, by its label. */
const figure = (label: string, within = "aside") =>
  session.page.$$eval(
    `${within} dl div`,
    (rows, wanted) =>
      rows
        .find((row) => row.querySelector("dt")?.textContent === wanted)
        ?.querySelector("dd")
        ?.textContent?.replace(/\s/g, "") ?? null,
    label,
  );

async function open(name: string, bytes: Uint8Array): Promise<void> {
  const path = join(session.app.data, name);
  writeFileSync(path, bytes);
  const input = (await session.page.waitForSelector(
    "input[aria-label=Delivery]",
  )) as ElementHandle<HTMLInputElement>;
  await input.uploadFile(path);
}

async function choose(label: string, option: string): Promise<void> {
  await session.page.click(
    `[aria-labelledby='yard-${label}'], [aria-label='${label}']`,
  );
  const handle = await session.page.waitForSelector(
    `[role=option][aria-label='${option}']`,
  );
  await handle!.click();
  await pause(500);
}

/** The picture, once it no longer changes. */
async function settled(): Promise<Uint8Array> {
  const canvas = (await session.page.$(".view canvas"))!;
  let before = await canvas.screenshot();
  for (let tries = 0; tries < 40; tries++) {
    await pause(150);
    const now = await canvas.screenshot();
    if (Buffer.compare(before, now) === 0) break;
    before = now;
  }
  return before;
}

beforeAll(async () => {
  const [ball, box, far] = laidOn(
    [
      moved(sphere(24, 32, 0.4), 0, 0.4, 0),
      moved(cube(), 1.5, 1, 0),
      moved(sphere(8, 10, 0.4), 0, 0.4, 0),
    ],
    squareSheet(256),
  );
  let asset = createAsset("Float", [
    createPart("ball", 0, { game: ball, levels: [far] }),
    createPart("box", 1, { game: box }),
  ]);
  asset = (await run("collide/hulls", asset, { kind: "hull" })).asset;
  asset = {
    ...asset,
    maps: [
      {
        ...{ kind: "normal", width: 32, height: 32, channels: 3, depth: 8 },
        pixels: Uint8Array.from({ length: 3072 }, (_, i) =>
          i % 3 === 1 ? ((i >> 3) % 2 ? 190 : 66) : i % 3 ? 230 : 128,
        ),
      },
    ],
  };
  const made = await shippedFiles(asset, { obj: false });
  ({ report } = made);
  shipped = asset;
  whole = made.files;
  await session.open();
  // Small pictures are drawn sooner.
  await sizeOf(session.page, 860, 560);
  await session.page.goto(`${session.app.url}/yard`);
  await shows(session.page, "Open a delivery…");
  await open("Float.zip", zipFiles(made.files, plainContext()));
  await shows(session.page, "Drawn now");
});
afterAll(() => session.close());

describe("the yard", () => {
  it("opens a shipped archive and tells what the report tells", async () => {
    await shows(session.page, "Float.glb");
    await shows(session.page, "Nothing is wrong with it.");
    expect(await figure("Triangles")).toBe(String(report.triangles));
    expect(await figure("Level 1")).toBe(String(report.levels[0] + 12));
    expect(await figure("Hulls")).toBe(String(report.hulls));
    expect(await figure("normal, PNG")).toBe("32×32");
  });

  it("draws a hundred copies with two calls a material and level, those far off more lightly", async () => {
    await choose("copies", "100 in rows");
    await settled();
    const near = Number(
      (await figure("At full detail", "[data-drawn]"))!.replace(/cop.*/, ""),
    );
    const far = Number(
      (await figure("At level 1", "[data-drawn]"))!.replace(/cop.*/, ""),
    );
    expect(near + far).toBe(100);
    expect(near).toBeGreaterThan(0);
    expect(far).toBeGreaterThan(20);
    // One material at two levels, drawn and drawn for its shadow.
    expect(
      Number(await figure("Draw calls, with shadows", "[data-drawn]")),
    ).toBeLessThanOrEqual(4);
    await choose("copies", "one");
  });

  it("shows hulls, wire, another light and green the wrong way, each to be seen", async () => {
    const plain = await settled();
    for (const [key, words] of [
      ["hulls", null],
      ["wire", null],
      ["wrongGreen", "Bumps look like dents"],
    ] as const) {
      const toggle = `[aria-labelledby='yard-${key}']`;
      await session.page.click(toggle);
      if (words) await shows(session.page, words);
      expect(Buffer.compare(await settled(), plain), key).not.toBe(0);
      await session.page.click(toggle);
      await settled();
    }
    await choose("light", "dusk");
    expect(Buffer.compare(await settled(), plain)).not.toBe(0);
    await choose("light", "day");
  });

  it("is walked through by keys", async () => {
    await press(session.page, "walk");
    const before = await settled();
    await session.page.focus(".view canvas");
    await session.page.keyboard.down("w");
    await pause(700);
    await session.page.keyboard.up("w");
    const after = await settled();
    expect(Buffer.compare(before, after)).not.toBe(0);
    // Whoever let go of the key stands.
    await pause(400);
    expect(Buffer.compare(after, await settled())).toBe(0);
    await press(session.page, "turn about it");
  });

  it("plays the drop test, and tells when it rests", async () => {
    await press(session.page, "Let go");
    await session.page.waitForFunction(
      () =>
        document.querySelector(".drop")!.textContent.includes("Rests after"),
      { timeout: 60_000 },
    );
    expect(await figure("Rests after", ".drop")).toMatch(/^\d\.\ds$/);
    await press(session.page, "Put it back");
  });

  it("shows each file of a delivery in several", async () => {
    const split = await shippedFiles(shipped, { obj: false, split: true });
    await open("Parts.zip", zipFiles(split.files, plainContext()));
    await shows(session.page, "Float_ball.glb");
    expect(await figure("Parts")).toBe("1");
    await choose("File of the delivery", "Float_box.glb");
    await session.page.waitForFunction(() =>
      [...document.querySelectorAll("aside dl dd")].some(
        (each) => each.textContent === "12",
      ),
    );
    expect(await figure("Triangles")).toBe("12");
    await open("Float.zip", zipFiles(whole, plainContext()));
    await shows(session.page, "Float.glb");
  });

  it("draws pictures in blocks as it draws them plain, and tells that they take a quarter", async () => {
    const pixels = async () => decode(await settled()).data;
    const plain = await pixels();
    const memory = Number.parseFloat(
      (await figure("Together, as they are"))!.replace(",", "."),
    );
    const packed = await shippedFiles(shipped, {
      obj: false,
      pictures: "ktx2",
    });
    await open("Blocks.zip", zipFiles(packed.files, plainContext()));
    await shows(session.page, "normal, KTX2");
    await shows(session.page, "Nothing is wrong with it.");
    expect(await figure("normal, KTX2")).toBe("32×32");
    expect(
      Number.parseFloat((await figure("Together, as they are"))!) / memory,
    ).toBeCloseTo(0.25, 1);
    const blocks = await pixels();
    const off = Array.from(blocks, (value, i) => Math.abs(value - plain[i]));
    expect(
      off.reduce((sum, value) => sum + value, 0) / off.length,
    ).toBeLessThan(0.5);
    await open("Float.zip", zipFiles(whole, plainContext()));
    await shows(session.page, "normal, PNG");
  });

  it("says what it can't open, and keeps what stands there", async () => {
    await open("notes.glb", new TextEncoder().encode("no delivery"));
    await shows(session.page, "notes.glb:");
    await open(
      "kept.zip",
      zipFiles(
        [{ name: "project.json", bytes: new Uint8Array([123, 125]) }],
        plainContext(),
      ),
    );
    await shows(session.page, "kept.zip: it is a project");
    expect(await figure("Triangles")).toBe(String(report.triangles));
    expect(session.errors).toEqual([]);
  });
});
