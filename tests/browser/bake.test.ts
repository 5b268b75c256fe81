import { writeFileSync } from "node:fs";
import { join } from "node:path";
import { encode } from "fast-png";
import type { ElementHandle } from "puppeteer-core";
import { afterAll, beforeAll, expect, it } from "vitest";
import { writeMeshFile } from "../../core/formats/index";
import type { StageResult } from "../../core/asset/asset";
import { moved, sphere } from "../shapes";
import { pause, pixels, press, shows } from "./app";
import type { Answer } from "./session";
import { Session } from "./session";

/** What an artist does at Bake, by mouse and keyboard: bakes, judges, mends, and bakes what is stale. */
const session = new Session();
const mapKinds = ({ document }: Answer) => [
  ...new Set(document.maps.map(({ kind }) => kind)),
];
const bakeResult = ({ document }: Answer) =>
  document.results.bake as StageResult;
const option = (label: string) =>
  session.page.evaluate((wanted) => {
    const found = [...document.querySelectorAll("label")].find(
      (each) => each.textContent?.trim() === wanted,
    );
    return found?.htmlFor ?? "";
  }, label);
async function type(label: string, text: string) {
  const id = await option(label);
  await session.page.click(`#${id}`, { count: 3 });
  await session.page.keyboard.type(text);
  await session.page.keyboard.press("Tab");
}
/** Whether a switch on the table's or the sheet's edge is there and on. */
const isOn = (label: string) =>
  session.page.evaluate(
    (wanted) =>
      [...document.querySelectorAll(".switch-group button")]
        .find((each) => each.textContent?.trim() === wanted)
        ?.getAttribute("aria-pressed") === "true",
    label,
  );
const tags = () =>
  session.page.$$eval(".tag", (all) =>
    all.map((each) => each.textContent?.trim().split(/\s·/)[0]),
  );

beforeAll(async () => {
  await session.open();
  await session.begin("gate float");
  const bumpy = sphere(
    40,
    60,
    0.1,
    (a, t) => 0.003 * Math.sin(9 * a) * Math.cos(6 * t),
  );
  const path = join(session.app.data, "gate float.glb");
  writeFileSync(
    path,
    await writeMeshFile("gate float.glb", [
      { name: "float", mesh: bumpy },
      { name: "lid", mesh: moved(sphere(16, 20, 0.04), 0, 0.13, 0) },
    ]),
  );
  await session.bringIn(path);
  await session.run("intake/brief", { triangles: 300, sheet: "256" });
  await session.run("reduce/to-budget", {});
  await session.run("unwrap/unwrap", {});
  await session.page.reload();
  await session.idle();
  await session.stage("6");
});
afterAll(() => session.close());

it("tries normals in the page as settings change, and keeps nothing of it", async () => {
  const { page } = session;
  const { revision } = await session.answer();
  /** Pixels that are as blue as normals that point straight up. */
  const blue = () => pixels(page, (r, g, b) => b > 200 && r < 170 && g < 170);
  const unfold = () =>
    page.click("[data-operation='bake/maps'] button[aria-expanded]");
  const before = await blue();
  await page.click("label[for='try-bake']");
  await shows(page, "As fine as the bake itself.");
  await shows(page, "256 × 256 px");
  await pause(300);
  expect((await blue()) - before).toBeGreaterThan(5000);
  await unfold();
  await type("Distances of parts", "float 4");
  await shows(page, '"float 4" is not a part and its distance');
  await type("Distances of parts", "float = 4");
  await shows(page, "As fine as the bake itself.");
  await page.click("[aria-label^='Distances of parts back to']");
  await unfold();
  await page.click("label[for='try-bake']");
  await shows(page, "Nothing of it is kept.");
  await pause(300);
  expect((await blue()) - before).toBeLessThan(1000);
  expect((await session.answer()).revision).toBe(revision);
  expect(session.errors).toEqual([]);
});

it("bakes, and another number of rays bakes only what hangs on it", async () => {
  await press(session.page, "Bake maps");
  const first = await session.idle((found) => bakeResult(found) !== undefined);
  expect(mapKinds(first)).toEqual(["normal", "ao", "status"]);
  expect(first.document.maps.map(({ depth }) => depth)).toEqual([16, 8, 8]);
  await type("Rays", "16");
  await press(session.page, "Bake maps");
  await session.idle(({ revision }) => revision !== first.revision);
  await shows(session.page, "Baked this time");
  const again = await session.answer();
  expect(bakeResult(again).report.bakedMaps).toEqual(["ao"]);
  expect(again.document.maps[0].pixels).toEqual(first.document.maps[0].pixels);
});

it("lays the baked mesh beside its source, and maps how far off it looks", async () => {
  await press(session.page, "Beside the source");
  await pause(300);
  expect((await tags()).slice(0, 2)).toEqual(["source", "baked"]);
  const { revision } = await session.answer();
  await press(session.page, "Map how far off");
  const found = await session.idle((answer) => answer.revision !== revision);
  expect(mapKinds(found)).toContain("angle");
  await shows(session.page, "off the source");
  expect(await isOn("look off")).toBe(true);
  expect(await isOn("map")).toBe(true);
  // Nothing that is delivered has changed.
  expect(found.standing.find(({ stage }) => stage === "bake")?.state).toBe(
    "current",
  );
});

it("shows the cage, shapes it at chosen faces, and bakes from there", async () => {
  await press(session.page, "game");
  await press(session.page, "cage");
  expect(await isOn("cage")).toBe(true);
  await press(session.page, "Shape the cage");
  await shows(session.page, "choose faces first");
  await session.chord("F", "Shift");
  await session.blur();
  const table = (await session.page.$("canvas"))!;
  const box = (await table.boundingBox())!;
  await session.page.mouse.click(
    box.x + box.width * 0.28,
    box.y + box.height * 0.5,
  );
  await pause(500);
  await type("Distance", "7");
  const { revision } = await session.answer();
  await session.page.evaluate(() =>
    [...document.querySelectorAll("button")]
      .filter((each) => each.textContent?.trim() === "Shape the cage")
      .at(-1)!
      .click(),
  );
  const found = await session.idle((answer) => answer.revision !== revision);
  expect(found.document.parts[0].game!.streams.cage).toBeTruthy();
  await shows(session.page, "Shaped by hand: float");
  expect(found.standing.find(({ stage }) => stage === "bake")?.state).toBe(
    "stale",
  );
});

it("takes two chosen parts for a pair that doesn't shade each other, and drops it again", async () => {
  const rows = await session.page.$$(".ledger tbody tr");
  await rows[0].click();
  await session.page.keyboard.down("Control");
  await rows[1].click();
  await session.page.keyboard.up("Control");
  await press(session.page, "float and lid don't shade each other");
  await shows(session.page, "float + lid");
  await press(session.page, "float also catches lid");
  await shows(session.page, "also catches");
  const { revision } = await session.answer();
  await session.chord("Escape");
  await press(session.page, "Bake maps");
  const found = await session.idle((answer) => answer.revision !== revision);
  expect(bakeResult(found).options).toMatchObject({
    pairs: "float + lid",
    catches: "float: lid",
  });
  await press(session.page, "Drop");
  await press(session.page, "Drop");
  await shows(session.page, "Choose two parts");
  expect(
    await session.page.evaluate(() =>
      document.body.innerText.includes("float + lid"),
    ),
  ).toBe(false);
});

it("rounds edges by a radius that is typed", async () => {
  const { revision } = await session.answer();
  await type("Rounded edges", "2");
  await press(session.page, "Bake maps");
  const found = await session.idle((answer) => answer.revision !== revision);
  expect(bakeResult(found).options.round).toBe(2);
  expect(session.errors).toEqual([]);
});

it("takes a map from elsewhere beside the baked one, shows it, and goes back", async () => {
  const { page } = session;
  const path = join(session.app.data, "float_ao.png");
  const size = 64;
  writeFileSync(
    path,
    encode({
      ...{ width: size, height: size, channels: 1 },
      data: new Uint8Array(size * size).fill(40),
    }),
  );
  const input = (await page.waitForSelector(
    "input[aria-label='Map files']",
  )) as ElementHandle<HTMLInputElement>;
  await input.uploadFile(path);
  const occlusion = ({ document }: Answer) =>
    document.maps.find(({ kind }) => kind === "ao");
  await session.idle((found) => occlusion(found)?.from === "float_ao.png");
  await shows(page, "float_ao.png, 64 × 64");
  await page.waitForFunction(
    () =>
      [...document.querySelectorAll(".switch-group button")]
        .find((each) => each.textContent?.trim() === "occlusion")
        ?.getAttribute("aria-pressed") === "true",
  );
  await page.click("[aria-label='which occlusion is in use']");
  const baked = await page.waitForSelector("[role=option][aria-label='baked']");
  await baked!.click();
  await session.idle((found) => occlusion(found)?.from === undefined);
  await press(page, "take occlusion from elsewhere away");
  await session.idle(({ document }) => !document.aside.length);
  expect(occlusion(await session.answer())).toBeDefined();
});
