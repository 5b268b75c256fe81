import { readFileSync, writeFileSync } from "node:fs";
import { join } from "node:path";
import { decode } from "fast-png";
import type { Browser, ElementHandle, Page } from "puppeteer-core";
import { afterAll, beforeAll, describe, expect, it } from "vitest";
import { writeMeshFile } from "../../core/formats/index";

import type { AssetDocument } from "../../core/asset/document";
import {
  App,
  fill,
  meshOnDisk,
  openBrowser,
  openPage,
  pause,
  press,
  shows,
  unfold,
  viewReady,
} from "./app";
import { cube } from "../shapes";

interface Answer {
  jobs: { id: number; operation: string; state: string }[];
  document: AssetDocument;
}

const app = new App();
const errors: string[] = [];
let browser: Browser;
let page: Page;
let id = 0;

const answer = () => app.json<Answer>(`assets/${id}`);
async function until(
  holds: (document: AssetDocument) => boolean,
): Promise<AssetDocument> {
  for (let tries = 0; tries < 900; tries++) {
    const { jobs, document } = await answer();
    const busy = jobs.some((job) => ["running", "queued"].includes(job.state));
    if (!busy && holds(document)) {
      await viewReady(page);
      await pause(300);
      return document;
    }
    await pause(100);
  }
  throw new Error("it did not come about");
}
const report = (document: AssetDocument) => document.results.unwrap!.report;
const hashOf = (
  document: AssetDocument,
  stream: "uvs" | "seamOverrides" | "held" | "hard" | "normals",
) => document.parts.map((part) => part.game?.streams[stream]?.hash);

/**
 * Chooses an island by a click on the sheet, and tells where that was.
 * Packing has its own mind: places all over the sheet are tried until one
 * lies under the pointer, slower the second time round.
 */
async function pickIsland(sheet: {
  x: number;
  y: number;
  width: number;
}): Promise<[number, number]> {
  for (let k = 0; k < 120; k++) {
    const far = (0.05 + 0.35 * ((k % 60) / 60)) * sheet.width;
    const at: [number, number] = [
      sheet.x + far * Math.cos(2.4 * k),
      sheet.y + far * Math.sin(2.4 * k),
    ];
    await page.mouse.click(...at);
    await pause(k < 60 ? 150 : 800);
    const chosen = await page.evaluate(async () => {
      // What a click changes is drawn with the next picture.
      await new Promise((done) => requestAnimationFrame(done));
      await new Promise((done) => requestAnimationFrame(done));
      return /1 island ·/.test(document.body.innerText);
    });
    if (chosen) return at;
  }
  throw new Error("no island of the sheet can be chosen");
}

/** Pixels of the table and of the sheet beside it. */
async function areas() {
  const middle = async (part: "table" | "sheet") => {
    const box = (await (await page.$(`[data-test=${part}]`))!.boundingBox())!;
    return {
      x: box.x + box.width / 2,
      y: box.y + box.height / 2,
      width: box.width,
    };
  };
  return { table: await middle("table"), sheet: await middle("sheet") };
}
const unfoldAndRun = (title: string) => unfold(page, title);

beforeAll(async () => {
  await app.start();
  browser = await openBrowser();
  page = await openPage(browser, errors);
  const made = await app.json<{ id: number }>("assets", "POST", {
    name: "ball",
  });
  ({ id } = made);
  await page.goto(`${app.url}/asset/${id}`);
  await shows(page, "Choose files…");
  const input = (await page.waitForSelector(
    "input[aria-label='Mesh files or a project']",
  )) as ElementHandle<HTMLInputElement>;
  await input.uploadFile(await meshOnDisk(app.data, "ball.obj"));
  await until((document) => document.parts.length > 0);
  await page.evaluate(() =>
    (document.activeElement as HTMLElement | null)?.blur(),
  );
  await page.keyboard.press("3");
  await fill(page, "Triangles", "900");
  await press(page, "Reduce to the budget");
  await until((document) => document.parts.every((part) => part.game));
  await page.keyboard.press("5");
  await press(page, "Unwrap");
  await until((document) => Boolean(document.results.unwrap));
}, 180_000);
afterAll(async () => {
  await browser?.close();
  await app.remove();
});

describe("a seam", () => {
  it("is traced through waypoints, shown as it would lay out, and set", async () => {
    const before = await until(() => true);
    await page.evaluate(() =>
      (document.activeElement as HTMLElement | null)?.blur(),
    );
    await page.keyboard.press("g");
    await press(page, "Trace");
    await pause(800);
    const { table } = await areas();
    await page.mouse.click(table.x - 40, table.y);
    await shows(page, "1 waypoint");
    await page.mouse.move(table.x, table.y - 30);
    await page.mouse.click(table.x + 30, table.y - 40);
    await shows(page, "2 waypoints");
    await shows(page, "new island");
    const said = await page.$eval(
      ".tried .muted",
      (each) => each.textContent ?? "",
    );
    expect(Number(/\d+/.exec(said)![0])).toBeLessThan(1500);
    await press(page, "Set seam");
    const after = await until((document) =>
      hashOf(document, "seamOverrides").some(Boolean),
    );
    expect(hashOf(after, "uvs")).not.toEqual(hashOf(before, "uvs"));
    expect(report(after)).toMatchObject({ flipped: 0 });
  });

  it("is taken back by the waypoint, and let go with Escape", async () => {
    const { table } = await areas();
    await page.mouse.click(table.x - 70, table.y - 40);
    await page.mouse.click(table.x - 10, table.y - 60);
    await shows(page, "2 waypoints");
    await page.focus("main.table");
    await page.keyboard.press("Backspace");
    await shows(page, "1 waypoint,");
    await page.keyboard.press("Escape");
    await shows(page, "Click waypoints on the game mesh.");
  });
});

describe("islands", () => {
  it("are chosen on the sheet and on the model at once, dragged, and stay when the rest is packed", async () => {
    await press(page, "Trace");
    const { sheet } = await areas();
    const before = await until(() => true);
    const [x, y] = await pickIsland(sheet);
    await page.mouse.move(x, y);
    await page.mouse.down();
    await page.mouse.move(x + 12, y - 330, { steps: 12 });
    await page.mouse.up();
    await press(page, "Put them there");
    const after = await until((document) =>
      hashOf(document, "held").some(Boolean),
    );
    expect(hashOf(after, "uvs")).not.toEqual(hashOf(before, "uvs"));
    await unfoldAndRun("Pack only");
    const laid = JSON.stringify(hashOf(after, "uvs"));
    const packed = await until(
      (document) => JSON.stringify(hashOf(document, "uvs")) !== laid,
    );
    // What is redone after a change is still the whole unwrap.
    expect(packed.results.unwrap?.operation).toBe("unwrap/unwrap");
    expect(report(packed)).toMatchObject({ overlap: 0, flipped: 0 });
    expect(hashOf(packed, "held").some(Boolean)).toBe(true);
  });

  it("get other texel densities with one press", async () => {
    const { sheet } = await areas();
    await pickIsland(sheet);
    await shows(page, "texels/m");
    await press(page, "0.5");
    await until((document) =>
      document.parts.some((part) => part.game?.streams.texelWeights),
    );
    await press(page, "Read density");
    await shows(page, "Give ");
  });
});

describe("looking at UVs", () => {
  it("shows the checker and the maps of stretch and density with their scales", async () => {
    await press(page, "density");
    await shows(page, "of the mean texels/m");
    await press(page, "stretch");
    await shows(page, "sheared");
    await press(page, "areas");
    await shows(page, "larger than its share");
    // The switch comes back with the scale it was left with.
    await press(page, "stretch");
    await shows(page, "pennants fly right");
    await press(page, "stretch");
    await shows(page, "larger than its share");
    await press(page, "stretch");
    await press(page, "checker");
    await press(page, "checker");
  });

  it("lists repeats, and makes a template that can be saved", async () => {
    await unfoldAndRun("Find repeats");
    await until((document) => Boolean(document.reports["unwrap/find-repeats"]));
    await unfoldAndRun("Make a template");
    await shows(page, "Save the template", 60_000);
    const { jobs } = await answer();
    const job = jobs.find((each) => each.operation === "unwrap/template")!;
    const file = await fetch(`${app.url}/api/jobs/${job.id}/file`);
    expect(file.headers.get("content-type")).toBe("image/png");
    const png = decode(new Uint8Array(await file.arrayBuffer()));
    expect([png.width, png.channels]).toEqual([2048, 4]);
    writeFileSync(
      join(app.data, "painted.png"),
      readFileSync(join(process.cwd(), "docs/screenshots/home.png")),
    );
    const input = (await page.$(
      "input[aria-label='Painted picture']",
    )) as ElementHandle<HTMLInputElement>;
    await input.uploadFile(join(app.data, "painted.png"));
    const document = await until((each) => each.painted !== null);
    expect(document.painted).toMatchObject({
      name: "painted.png",
      kind: "png",
    });
    await shows(page, "painted.png");
  });
});

describe("edges", () => {
  it("say what splits cost, and mend hard edges without a UV split", async () => {
    await page.evaluate(() =>
      (document.activeElement as HTMLElement | null)?.blur(),
    );
    await page.keyboard.press("4");
    await shows(page, "What splits cost");
    await fill(page, "Hard above", "12");
    await press(page, "Hard above an angle");
    await until((document) => hashOf(document, "hard").some(Boolean));
    await shows(page, "without a UV split");
    await press(page, "Smooth");
    await shows(page, "Every hard edge is a UV split.");
  });

  it("takes normals from the source", async () => {
    const before = await until(() => true);
    await unfoldAndRun("Take normals from elsewhere");
    const after = await until((document) =>
      document.parts.some((part) => part.game?.streams.ownNormals),
    );
    expect(hashOf(after, "normals")).not.toEqual(hashOf(before, "normals"));
  });
});

describe("a region", () => {
  it("of a box is the side under the pointer: shown, cut out, and one island then", async () => {
    const made = await app.json<{ id: number }>("assets", "POST", {
      name: "box",
    });
    ({ id } = made);
    await page.goto(`${app.url}/asset/${id}`);
    await shows(page, "Choose files…");
    const path = join(app.data, "box.obj");
    writeFileSync(
      path,
      await writeMeshFile("box.obj", [{ name: "box", mesh: cube() }]),
    );
    const input = (await page.waitForSelector(
      "input[aria-label='Mesh files or a project']",
    )) as ElementHandle<HTMLInputElement>;
    await input.uploadFile(path);
    await until((document) => document.parts.length > 0);
    await page.evaluate(() =>
      (document.activeElement as HTMLElement | null)?.blur(),
    );
    await page.keyboard.press("3");
    await press(page, "Reduce to the budget");
    await until((document) => document.parts.every((part) => part.game));
    await page.keyboard.press("5");
    await press(page, "Unwrap");
    const before = await until((document) => Boolean(document.results.unwrap));
    await press(page, "Region");
    await pause(800);
    const { table } = await areas();
    await page.mouse.move(table.x - 4, table.y - 4);
    await page.mouse.move(table.x, table.y);
    await page.mouse.click(table.x, table.y);
    await shows(page, "4 edges");
    await press(page, "Set seam");
    const after = await until((document) =>
      hashOf(document, "seamOverrides").some(Boolean),
    );
    expect(Number(report(after).islands)).toBeGreaterThanOrEqual(
      Number(report(before).islands),
    );
    expect(report(after)).toMatchObject({ flipped: 0, overlap: 0 });
  });
});

describe("the page", () => {
  it("has left no error", () => expect(errors).toEqual([]));
});
