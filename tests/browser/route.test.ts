import { writeFileSync } from "node:fs";
import { join } from "node:path";
import { strFromU8, unzipSync } from "fflate";
import { decode, decodeApng } from "fast-png";
import type { Browser, Page } from "puppeteer-core";
import { afterAll, beforeAll, describe, expect, it } from "vitest";
import { readMeshFiles } from "../../core/formats/index";
import { triangleCount } from "../../core/mesh/mesh";
import { validateGlb } from "../../core/ship/methods/validate";
import {
  App,
  fill,
  meshOnDisk,
  openBrowser,
  openPage,
  pause,
  pixels,
  press,
  shows,
  unfold,
  viewReady,
} from "./app";

interface Answer {
  revision: number;
  standing: { stage: string; state: string }[];
  jobs: {
    id: number;
    state: string;
    operation: string;
    error: string | null;
  }[];
  document: {
    brief: { profile: unknown };
    maps: { kind: string; pixels: { hash: string } }[];
    name: string;
    parts: {
      name: string;
      locked: boolean;
      game: { triangles: number } | null;
    }[];
  };
}

const app = new App();
const errors: string[] = [];
let browser: Browser;
let page: Page;
let id = 0;
const asset = () => app.json<Answer>(`assets/${id}`);
const stateOf = async (stage: string) =>
  (await asset()).standing.find((each) => each.stage === stage)!.state;

async function untilIdle(): Promise<void> {
  for (let tries = 0; tries < 1200; tries++) {
    const { jobs } = await asset();
    if (!jobs.some((job) => job.state === "running" || job.state === "queued"))
      return;
    await pause(100);
  }
  throw new Error("the job did not end");
}

/** Presses a stage's main button and waits until its result is there. */
async function make(key: string, label: string, stage: string): Promise<void> {
  await page.keyboard.press("Escape");
  await page.evaluate(() =>
    (document.activeElement as HTMLElement | null)?.blur(),
  );
  await page.keyboard.press(key as "1");
  await press(page, label);
  for (
    let tries = 0;
    tries < 1200 && (await stateOf(stage)) !== "current";
    tries++
  )
    await pause(100);
  expect(await stateOf(stage)).toBe("current");
  await untilIdle();
}

beforeAll(async () => {
  await app.start();
  browser = await openBrowser();
  page = await openPage(browser, errors);
});
afterAll(async () => {
  await browser?.close();
  await app.remove();
});

describe("from a file on disk to the archive", () => {
  it("begins an asset and brings a file in", async () => {
    await page.goto(app.url);
    await shows(page, "There is no asset yet");
    await press(page, "Begin an asset");
    await shows(page, "Choose files…");
    id = Number(page.url().split("/").pop());
    const input = await page.waitForSelector("input[type=file]");
    await (
      input as unknown as { uploadFile(path: string): Promise<void> }
    ).uploadFile(await meshOnDisk(app.data, "buoy top.obj"));
    await shows(page, "stud");
    await viewReady(page);
    // The name is shown while the file is still being worked on.
    await untilIdle();
    expect((await asset()).document.parts.map((part) => part.name)).toEqual([
      "ball",
      "stud",
    ]);
  });

  it("keeps the brief", async () => {
    await fill(page, "Name", "Buoy top");
    await fill(page, "Triangles", "600");
    await page.click("[aria-label=Sheet]");
    await (await page.waitForSelector(
      "[role=option][aria-label='256 px wide']",
    ))!.click();
    await press(page, "Keep this brief");
    await shows(page, "Buoy top");
    await shows(page, "of 600");
  });

  it("goes through Survey, Reduce, Edges, Unwrap, Bake, Collide and Ship", async () => {
    await make("2", "Survey the source", "survey");
    await shows(page, "Open edges");
    await make("3", "Reduce to the budget", "reduce");
    const { parts } = (await asset()).document;
    expect(
      parts.reduce((sum, part) => sum + part.game!.triangles, 0),
    ).toBeLessThanOrEqual(600);
    await make("4", "Hard above an angle", "edges");
    await make("5", "Unwrap", "unwrap");
    await shows(page, "Density spread");
    await make("6", "Bake maps", "bake");
    await shows(page, "Missed texels");
    await make("8", "Make hulls", "collide");
    await shows(page, "Volume added");
  });

  it("bakes further maps, shows each on the sheet, and says which have nothing to show", async () => {
    await page.keyboard.press("6");
    await page.waitForSelector(".p-multiselect");
    await page.click(".p-multiselect");
    for (const map of ["curvature", "IDs"])
      await (await page.waitForSelector(
        `[role=option][aria-label='${map}']`,
      ))!.click();
    await page.keyboard.press("Escape");
    await make("6", "Bake maps", "bake");
    await shows(page, "no source has IDs");
    const { maps } = (await asset()).document;
    expect(maps.map(({ kind }) => kind)).toEqual([
      "normal",
      "ao",
      "curvature",
      "id",
      "status",
    ]);
    const sheet = async () => {
      await pause(1500);
      return (await page.$("[data-test=sheet]"))!.screenshot({
        encoding: "base64",
      });
    };
    const normals = await sheet();
    await press(page, "curvature");
    expect(await sheet()).not.toBe(normals);
  });

  it("shows what became of the rays on sheet and model, and bakes a chosen part by itself", async () => {
    const table = async () => {
      await pause(1500);
      return (await page.$("[data-test=table]"))!.screenshot({
        encoding: "base64",
      });
    };
    const before = await table();
    await press(page, "what rays met");
    await shows(page, "its own source");
    await press(page, "map");
    expect(await table()).not.toBe(before);
    await press(page, "map");
    await press(page, "normal map");
    await shows(page, "Look off, mean");
    const maps = (await asset()).document.maps.map(({ pixels }) => pixels.hash);
    await page.click(".ledger [title=stud]");
    await shows(page, "on stud");
    await press(page, "Bake maps");
    await shows(page, "1 of 2 parts");
    await untilIdle();
    // Nothing has changed: the part comes out as it was.
    expect(
      (await asset()).document.maps.map(({ pixels }) => pixels.hash),
    ).toEqual(maps);
    await page.keyboard.press("Escape");
    await shows(page, "on all parts");
  });

  it("finishes with a look that is seen in the baked view", async () => {
    await page.keyboard.press("7");
    await page.waitForSelector("input[type=color]");
    await page.$eval("input[type=color]", (input) => {
      input.value = "#b04020";
      input.dispatchEvent(new Event("input", { bubbles: true }));
      input.dispatchEvent(new Event("change", { bubbles: true }));
    });
    for (
      let tries = 0;
      tries < 100 && (await stateOf("finish")) !== "current";
      tries++
    )
      await pause(100);
    await page.keyboard.press("b");
    await viewReady(page);
    await pause(1500);
    const red = await pixels(page, (r, g) => r > 1.6 * g && r > 80);
    expect(red).toBeGreaterThan(3000);
  });

  it("ships an archive that holds what it says", async () => {
    await make("9", "Ship", "ship");
    await shows(page, "Save the archive");
    const href = await page.$eval(".file a", (link) => link.href);
    const bytes = new Uint8Array(await (await fetch(href)).arrayBuffer());
    const entries = unzipSync(bytes);
    expect(Object.keys(entries).sort()).toEqual([
      "Buoy top.glb",
      "Buoy top.mtl",
      "Buoy top.obj",
      "Buoy top_ao.png",
      "Buoy top_curvature.png",
      "Buoy top_id.png",
      "Buoy top_normal.png",
      "report.html",
      "report.json",
    ]);
    expect(
      await validateGlb("Buoy top.glb", entries["Buoy top.glb"]),
    ).toMatchObject({ errors: 0 });
    const { parts, looks } = await readMeshFiles([
      { name: "Buoy top.glb", bytes: entries["Buoy top.glb"] },
    ]);
    const meshes = parts.filter((part) => !part.name.includes("_hull_"));
    expect(
      meshes.reduce((sum, part) => sum + triangleCount(part.mesh), 0),
    ).toBeLessThanOrEqual(600);
    expect(parts.length).toBeGreaterThan(meshes.length);
    expect([...looks.values()].map(({ colour }) => colour)).toContain(
      "#b04020",
    );
    expect(decode(entries["Buoy top_normal.png"])).toMatchObject({
      width: 256,
      height: 256,
      channels: 3,
    });
    const report = JSON.parse(strFromU8(entries["report.json"])) as {
      validator: { errors: number };
      checks: { ok: boolean; stops: boolean }[];
      readBack: { differs: string[] }[];
      pictures: string;
    };
    expect(report.validator.errors).toBe(0);
    expect(report.checks.filter(({ ok, stops }) => stops && !ok)).toEqual([]);
    expect(report.readBack).toHaveLength(2);
    const html = strFromU8(entries["report.html"]);
    expect(html).toContain("Everything that stops a delivery is met");
    // The view took them, with the look that the asset was given.
    expect(report.pictures).toBe("from the view");
    const [, front] = /alt="front".*?base64,([^"]+)"/.exec(html)!;
    const { width, data, channels } = decode(Buffer.from(front, "base64"));
    expect(width).toBe(760);
    let red = 0;
    for (let i = 0; i < data.length; i += channels)
      if (data[i] > 1.6 * data[i + 1] && data[i] > 80) red++;
    expect(red / (data.length / channels)).toBeGreaterThan(0.1);
  });

  it("turns it before the eye, from the view, which stays as it was", async () => {
    const before = await (await page.$("main.table canvas"))!.screenshot();
    await unfold(page, "Make a turntable");
    await shows(page, "Save the turntable");
    const href = await page.$$eval(
      ".file a",
      (links) => links.find((link) => /turntable/.test(link.textContent))!.href,
    );
    const bytes = new Uint8Array(await (await fetch(href)).arrayBuffer());
    const entries = unzipSync(bytes);
    expect(Object.keys(entries)).toHaveLength(25);
    const { frames } = decodeApng(entries["Buoy top_turn.png"]);
    expect(frames).toHaveLength(24);
    const bytesOf = (f: number) => Buffer.from(frames[f].data.buffer);
    expect(Buffer.compare(bytesOf(0), bytesOf(6))).not.toBe(0);
    await viewReady(page);
    const after = await (await page.$("main.table canvas"))!.screenshot();
    expect(Buffer.compare(before, after)).toBe(0);
  });

  it("packs a project, which the first page opens as an asset of its own, whole", async () => {
    const before = await asset();
    await unfold(page, "Pack as a project");
    await shows(page, "Save the project");
    expect((await asset()).revision).toBe(before.revision);
    const href = await page.$$eval(
      ".file a",
      (links) => links.find((link) => /project/.test(link.textContent))!.href,
    );
    const answer = await fetch(href);
    expect(answer.headers.get("content-disposition")).toContain(
      "Buoy%20top_project.zip",
    );
    const path = join(app.data, "kept.zip");
    writeFileSync(path, Buffer.from(await answer.arrayBuffer()));
    const second = await openPage(browser, errors);
    await second.goto(app.url);
    await shows(second, "Open a project…");
    const input = (await second.$("input[type=file]")) as unknown as {
      uploadFile(path: string): Promise<void>;
    };
    await input.uploadFile(path);
    await second.waitForFunction(() => /asset\/\d+/.test(location.pathname));
    await shows(second, "stud");
    const address = `assets/${second.url().split("/").pop()}`;
    await second.close();
    await page.bringToFront();
    let copy = await app.json<Answer>(address);
    for (let tries = 0; tries < 100 && copy.jobs[0].state !== "done"; tries++) {
      await pause(100);
      copy = await app.json<Answer>(address);
    }
    expect(copy.document).toEqual(before.document);
    expect(copy.standing).toEqual(before.standing);
  });

  it("ships by a profile of one's own, which stays in the list", async () => {
    await press(page, "Change it");
    await fill(page, "Name", "Harbour engine");
    await press(page, "Use this profile");
    await shows(page, "Keep in the list");
    await press(page, "Keep in the list");
    await shows(page, "Take from the list");
    expect((await asset()).document.brief.profile).toMatchObject({
      name: "Harbour engine",
    });
    expect(await stateOf("ship")).toBe("stale");
    const list = await app.json<{ name: string; own: boolean }[]>("profiles");
    expect(list.filter(({ own }) => own).map(({ name }) => name)).toEqual([
      "Harbour engine",
    ]);
    const refused = await app.json<{ data: { message: string } }>(
      "profiles",
      "POST",
      { file: "a.json", text: JSON.stringify({ format: "other" }) },
    );
    expect(refused.data.message).toContain("a.json: its format is not");
  });

  it("raised no error in the page on the way", () =>
    expect(errors).toEqual([]));
});

describe("working on", () => {
  it("undoes and redoes by key", async () => {
    const before = (await asset()).revision;
    await page.keyboard.press("u");
    for (
      let tries = 0;
      tries < 50 && (await asset()).revision === before;
      tries++
    )
      await pause(100);
    expect((await asset()).revision).toBeLessThan(before);
    await shows(page, "Back to:");
    await page.keyboard.press("r");
    for (
      let tries = 0;
      tries < 50 && (await asset()).revision !== before;
      tries++
    )
      await pause(100);
    expect((await asset()).revision).toBe(before);
  });

  it("says what went stale and brings it up to date on one command", async () => {
    await page.keyboard.press("1");
    await shows(page, "Brief");
    await fill(page, "Triangles", "500");
    await press(page, "Keep this brief");
    await shows(page, "stale · Bring");
    await page.keyboard.press("d");
    for (
      let tries = 0;
      tries < 600 &&
      (await asset()).standing.some((each) => each.state === "stale");
      tries++
    )
      await pause(200);
    expect(
      (await asset()).standing.filter((each) => each.state === "stale"),
    ).toEqual([]);
    await shows(page, "all current");
    expect(
      (await asset()).document.parts.reduce(
        (sum, part) => sum + (part.game?.triangles ?? 0),
        0,
      ),
    ).toBeLessThanOrEqual(500);
  });

  it("chooses a part in the view and in the ledger, and locks it", async () => {
    await viewReady(page);
    await page.keyboard.press("g");
    await page.keyboard.press("f");
    await pause(800);
    const box = (await (await page.$("canvas"))!.boundingBox())!;
    await page.mouse.click(box.x + box.width * 0.42, box.y + box.height * 0.5);
    await page.waitForSelector("tr.p-datatable-row-selected");
    await page.keyboard.press("Escape");
    await page.waitForFunction(
      () => !document.querySelector("tr.p-datatable-row-selected"),
    );
    await press(page, "lock stud");
    for (
      let tries = 0;
      tries < 50 && !(await asset()).document.parts[1].locked;
      tries++
    )
      await pause(100);
    expect((await asset()).document.parts[1].locked).toBe(true);
    await press(page, "unlock stud");
    for (
      let tries = 0;
      tries < 50 && (await asset()).document.parts[1].locked;
      tries++
    )
      await pause(100);
  });

  it("makes an edge hard that was clicked on", async () => {
    await page.keyboard.press("4");
    await page.keyboard.press("g");
    await pause(500);
    const box = (await (await page.$("canvas"))!.boundingBox())!;
    await page.mouse.click(box.x + box.width * 0.4, box.y + box.height * 0.5);
    await shows(page, "1 edge chosen");
    await press(page, "Make hard");
    await shows(page, "Mark edges hard or smooth");
  });

  it("drags the divider between source and game mesh", async () => {
    await page.keyboard.press("c");
    const handle = await page.waitForSelector(".divider");
    const box = (await handle!.boundingBox())!;
    await page.mouse.move(box.x + 12, box.y + 300);
    await page.mouse.down();
    await page.mouse.move(box.x + 150, box.y + 300, { steps: 5 });
    await page.mouse.up();
    const at = await page.$eval(".divider", (each) =>
      Number(each.getAttribute("aria-valuenow")),
    );
    expect(at).toBeGreaterThan(60);
  });

  it("finds a command by name, and shows the keys", async () => {
    await page.keyboard.down("Control");
    await page.keyboard.press("k");
    await page.keyboard.up("Control");
    await page.waitForSelector("input[aria-label='What to do']");
    await page.keyboard.type("go to coll");
    await page.keyboard.press("Enter");
    await shows(page, "What the engine bumps into");
    await page.keyboard.press("?");
    await shows(page, "Frame what is selected");
    await page.keyboard.press("Escape");
    await page.waitForFunction(() => !document.querySelector(".panel"));
  });

  it("remembers stage and view over a reload", async () => {
    await page.keyboard.press("5");
    await page.waitForSelector("[data-test=sheet]");
    await page.keyboard.press("t");
    await pause(300);
    await page.reload();
    await shows(page, "Cut, unfold, even out, pack.");
    await page.waitForSelector("[data-test=sheet]");
    expect(
      await page.$eval("[aria-label='What the table shows']", (each) =>
        [...each.querySelectorAll("button.on")].map(({ textContent }) =>
          textContent?.trim(),
        ),
      ),
    ).toEqual(["game", "seams", "sheet"]);
  });

  it("tells a file that is no mesh, and changes nothing", async () => {
    const { revision } = await asset();
    await page.keyboard.press("1");
    const input = await page.waitForSelector("input[type=file]");
    await (
      input as unknown as { uploadFile(path: string): Promise<void> }
    ).uploadFile("package.json");
    await shows(page, "not a mesh file");
    expect((await asset()).revision).toBe(revision);
  });
});
