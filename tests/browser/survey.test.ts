import { writeFileSync } from "node:fs";
import { join } from "node:path";
import { encode } from "fast-png";
import type { Browser, ElementHandle, Page } from "puppeteer-core";
import { afterAll, beforeAll, describe, expect, it } from "vitest";
import type { AssetDocument } from "../../core/asset/document";
import { writeMeshFile } from "../../core/formats/index";
import type { NamedMesh } from "../../core/formats/index";
import { seededRandom } from "../../core/base/random";
import { faceCount } from "../../core/mesh/mesh";
import { keepFaces } from "../../core/mesh/change-faces";
import { PLANTS, thirtyMeshes } from "../planted";
import { DIRTY, scanLike } from "../scan-like";
import { ballsInRows, cube, joined, moved, sphere } from "../shapes";
import {
  App,
  fill,
  openBrowser,
  openPage,
  pause,
  pixels,
  press,
  runForm,
  shows,
  viewReady,
} from "./app";

interface Answer {
  revision: number;
  number: number;
  title: string;
  jobs: { state: string; error: string | null }[];
  document: AssetDocument;
}

const app = new App();
const errors: string[] = [];
let browser: Browser;
let page: Page;
let id = 0;
const asset = () => app.json<Answer>(`assets/${id}`);
const names = async () =>
  (await asset()).document.parts.map((part) => part.name);

/** Waits until nothing runs and something holds of the asset. */
async function until(holds: (answer: Answer) => boolean): Promise<Answer> {
  let last: Answer | null = null;
  for (let tries = 0; tries < 300; tries++) {
    last = await asset();
    const busy = last.jobs.some((job) =>
      ["running", "queued"].includes(job.state),
    );
    if (!busy && holds(last)) {
      await viewReady(page);
      return last;
    }
    await pause(100);
  }
  throw new Error(
    `it did not come about; the asset is at "${last?.title}", ${JSON.stringify(last?.jobs[0])}`,
  );
}

async function begin(name: string, parts: NamedMesh[]): Promise<void> {
  await page.goto(app.url);
  id = await page.evaluate(
    async (wanted) =>
      (
        (await (
          await fetch("/api/assets", {
            method: "POST",
            headers: { "Content-Type": "application/json" },
            body: JSON.stringify({ name: wanted }),
          })
        ).json()) as { id: number }
      ).id,
    name,
  );
  const path = join(app.data, `${name}.obj`);
  writeFileSync(path, await writeMeshFile(`${name}.obj`, parts));
  await page.goto(`${app.url}/asset/${id}`);
  await shows(page, "Choose files…");
  await give("Mesh files or a project", path);
  await until(({ document }) => document.parts.length > 0);
}

async function give(label: string, ...paths: string[]): Promise<void> {
  const input = (await page.waitForSelector(
    `input[aria-label='${label}']`,
  )) as ElementHandle<HTMLInputElement>;
  await input.uploadFile(...paths);
}

async function blur(): Promise<void> {
  await page.evaluate(() =>
    (document.activeElement as HTMLElement | null)?.blur(),
  );
}

/** Goes to a stage by its digit. */
async function stage(key: "1" | "2" | "3"): Promise<void> {
  await blur();
  await page.keyboard.press(key);
}

/** A point of the table, as shares of its width and height. */
async function onTable(x: number, y: number): Promise<[number, number]> {
  const box = (await (await page.$("canvas"))!.boundingBox())!;
  return [box.x + x * box.width, box.y + y * box.height];
}

/** The figures of the selection, once they are there. */
async function chosen(): Promise<string> {
  const handle = await page.waitForSelector(".chosen", { timeout: 15_000 });
  await pause(300);
  return handle!.evaluate((each) => each.textContent!.replace(/\u2009/g, " "));
}

/** Opens a list and takes one of its options. */
async function pick(list: string, option: string): Promise<void> {
  await page.click(list);
  const found = await page.waitForSelector(
    `[role=option][aria-label='${option}']`,
  );
  await pause(300);
  await found!.click();
  await page.waitForFunction(
    () => document.querySelector("[role=option]") === null,
    { timeout: 15_000, polling: 100 },
  );
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

describe("findings", () => {
  it("are listed, framed one by one and mended, and the mend can be undone", async () => {
    await begin(
      "wrecks",
      PLANTS.map(({ name, plant }, i) => ({
        name: name.replaceAll(" ", "-"),
        mesh: moved(
          plant(thirtyMeshes()[(7 * i) % 30].mesh, seededRandom(i)),
          5 * i,
          0,
          0,
        ),
      })),
    );
    await stage("2");
    await press(page, "Survey the source");
    await until(({ document }) => document.results.survey !== undefined);
    await shows(page, "Findings");
    await shows(page, "a-face-turned-over: 1 turned face");
    await shows(page, "a-shell-inside-out: 1 shell is turned inside out");
    const before = await page.evaluate(() =>
      localStorage.getItem(`arnik.view.${location.pathname.split("/").pop()}`),
    );
    await press(page, "a-face-missing: 3 open edges").catch(() =>
      press(page, "a-face-missing: 4 open edges"),
    );
    await pause(500);
    const after = await page.evaluate(() =>
      localStorage.getItem(`arnik.view.${location.pathname.split("/").pop()}`),
    );
    expect(after).not.toBe(before);
    const { number } = await asset();
    await page.evaluate(() => {
      const row = [...document.querySelectorAll("li")].find((each) =>
        each.textContent?.includes("a-loose-vertex: 1 loose vertex"),
      )!;
      row.querySelector<HTMLButtonElement>(".link-action")!.click();
    });
    await until((answer) => answer.number === number + 1);
    expect((await asset()).title).toContain("drop loose vertices: 1");
    await blur();
    await page.keyboard.press("u");
    await until((answer) => answer.number === number);
  });

  it("are all mended by one action, after which the survey is clean", async () => {
    await press(page, "Mend what was found");
    await pause(200);
    await page.evaluate(() =>
      [...document.querySelectorAll<HTMLButtonElement>(".fold form .go")]
        .find((each) => each.textContent?.includes("Mend what was found"))!
        .click(),
    );
    await until(({ title }) => title.startsWith("Mend"));
    await press(page, "Survey the source");
    await until(
      ({ document }) => document.results.survey?.headline === "clean",
    );
    await shows(page, "clean");
  });
});

describe("a dirty scan", () => {
  const figure = async () => (await asset()).document.parts[0];
  /** Presses the mend of a finding as soon as the page has the answer to what came before. */
  const row = async (words: string) => {
    const mend = await page.waitForFunction(
      (wanted: string) =>
        [...document.querySelectorAll("li")]
          .find((each) =>
            each.textContent?.replace(/\u2009/g, " ").includes(wanted),
          )
          ?.querySelector<HTMLButtonElement>(".link-action:not(:disabled)"),
      { timeout: 15_000, polling: 100 },
      words,
    );
    await page.evaluate(
      (button) => (button as HTMLButtonElement).click(),
      mend,
    );
    return true;
  };

  it("says what was settled, and leaves a rule out where that is wanted", async () => {
    await begin("scan", [{ name: "scan", mesh: scanLike(2, 12_000, DIRTY) }]);
    await stage("2");
    await press(page, "Survey the source");
    await until(({ document }) => document.results.survey !== undefined);
    await shows(page, "for all work: coincident vertices are joined");
    const before = (await figure()).settled!.done.length;
    expect(await row("fins are left out and shared edges parted")).toBe(true);
    await until(({ document }) => document.settleWithout.length === 1);
    expect((await figure()).settled!.done).toHaveLength(before - 1);
    await shows(page, "1 rule of settling is turned off");
    expect(await row("1 rule of settling is turned off")).toBe(true);
    await until(({ document }) => document.settleWithout.length === 0);
  });

  it("is shown without its noise before that is taken out", async () => {
    const table = async () =>
      (await page.$("canvas"))!.screenshot({ encoding: "base64" });
    const pressed = () =>
      page.evaluate(() =>
        [...document.querySelectorAll("[aria-pressed]")]
          .find((each) =>
            /^Show it (as it is|without)/.test(each.textContent!.trim()),
          )
          ?.getAttribute("aria-pressed"),
      );
    const source = (await figure()).source!.streams.positions!.hash;
    await press(page, "Take scan noise out");
    await page.evaluate(() => {
      const label = [...document.querySelectorAll("label")].find(
        (each) => each.textContent?.trim() === "Only try",
      )!;
      document.getElementById(label.htmlFor)!.click();
    });
    await runForm(page, "Take scan noise out");
    await until(({ document }) => document.parts[0].tried !== null);
    await shows(page, "moves by up to");
    await page.waitForFunction(() =>
      [...document.querySelectorAll("[aria-pressed=true]")].some((each) =>
        each.textContent?.includes("Show it as it is"),
      ),
    );
    await viewReady(page);
    const smooth = await table();
    await press(page, "Show it as it is");
    expect(await pressed()).toBe("false");
    await pause(400);
    expect(await table()).not.toEqual(smooth);
    expect((await figure()).source!.streams.positions!.hash).toBe(source);
    await press(page, "Take it out");
    const taken = await until(({ document }) => !document.parts[0].tried);
    expect(taken.document.parts[0].source!.streams.positions!.hash).not.toBe(
      source,
    );
    await blur();
    await page.keyboard.press("u");
    await until(({ document }) => document.parts[0].tried !== null);
    await page.keyboard.press("u");
    await until(({ document }) => document.parts[0].tried === null);
  });

  it("is offered a new skin, which is closed and keeps the scan for the bake", async () => {
    await shows(page, "scan is folded or doubled");
    const source = (await figure()).source!.streams.positions!.hash;
    expect(await row("scan is folded or doubled")).toBe(true);
    await until(({ document }) => document.parts[0].skinned);
    const { dense } = await figure();
    expect(dense!.streams.positions!.hash).toBe(source);
    await press(page, "Survey the source");
    await until(
      ({ document }) =>
        Number(document.results.survey?.report.borderEdges) === 0 &&
        Number(document.results.survey?.report.nonManifoldEdges) === 0,
    );
    // Back over the survey, then over the skin.
    for (const skinned of [true, false]) {
      const { number } = await asset();
      await blur();
      await page.keyboard.press("u");
      await until(
        (answer) =>
          answer.number === number - 1 &&
          answer.document.parts[0].skinned === skinned,
      );
    }
  });
});

describe("a hole that may be meant", () => {
  it("is left by mending all, named with its width, and closed by its own row", async () => {
    const bowl = sphere(24, 32, 0.1);
    const open = keepFaces(
      bowl,
      new Uint8Array(faceCount(bowl)).map((_, f) =>
        bowl.positions[3 * bowl.corners[bowl.faceStarts[f]] + 1] < 0.02 ? 1 : 0,
      ),
    );
    await begin("bowl", [{ name: "bowl", mesh: open }]);
    await stage("2");
    await press(page, "Mend what was found");
    await pause(200);
    await page.evaluate(() =>
      [...document.querySelectorAll<HTMLButtonElement>(".fold form .go")]
        .find((each) => each.textContent?.includes("Mend what was found"))!
        .click(),
    );
    await until(({ title }) => title.includes("left open: 1"));
    await press(page, "Survey the source");
    await until(({ document }) => document.results.survey !== undefined);
    await shows(page, "one hole 19");
    await page.evaluate(() =>
      [...document.querySelectorAll("li")]
        .find((each) => each.textContent?.includes("one hole"))!
        .querySelector<HTMLButtonElement>(".link-action")!
        .click(),
    );
    await until(({ title }) => title.includes("close holes: 1"));
    await press(page, "Survey the source");
    await until(
      ({ document }) => document.results.survey?.headline === "clean",
    );
  });
});

describe("choosing and changing", () => {
  it("faces by flood, growing, shrinking and inverting, with their figures", async () => {
    await begin("set", [
      { name: "box", mesh: cube() },
      { name: "ball", mesh: moved(sphere(20, 24), 4, 0, 0) },
    ]);
    await stage("2");
    await page.click("[aria-label='choose by component']");
    // The view may still be framing what has just come in.
    for (let tries = 0; tries < 10 && !(await page.$(".chosen")); tries++) {
      await page.mouse.click(...(await onTable(0.28, 0.55)));
      await pause(700);
    }
    expect(await chosen()).toMatch(/6 faces · 12 triangles/);
    await page.click("[aria-label='choose by face']");
    await page.mouse.click(...(await onTable(0.28, 0.55)));
    expect(await chosen()).toMatch(/1 face · 2 triangles · 4.00 m²/);
    await page.click("[aria-label=grow]");
    await pause(400);
    expect(await chosen()).toMatch(/5 faces|6 faces/);
    await page.click("[aria-label=invert]");
    await pause(400);
    await page.keyboard.press("Escape");
    expect(await page.$(".chosen")).toBeNull();
  });

  it("by a box dragged over the table and by painting", async () => {
    await page.click("[aria-label='choose by box']");
    const drag = async (from: [number, number], to: [number, number]) => {
      await page.mouse.move(...from);
      await page.mouse.down();
      await page.mouse.move(...to, { steps: 6 });
      await page.mouse.up();
    };
    await drag(await onTable(0.52, 0.25), await onTable(0.95, 0.85));
    const boxed = Number(
      /([\d ]+) faces/.exec(await chosen())![1].replace(/ /g, ""),
    );
    expect(boxed).toBeGreaterThan(100);
    await page.keyboard.press("Escape");
    await page.click("[aria-label='choose by brush']");
    await drag(await onTable(0.66, 0.5), await onTable(0.72, 0.5));
    const painted = Number(
      /([\d ]+) faces?/.exec(await chosen())![1].replace(/ /g, ""),
    );
    expect(painted).toBeGreaterThan(3);
    expect(painted).toBeLessThan(boxed);
    await press(page, "Split off");
    await page.evaluate(() =>
      [...document.querySelectorAll<HTMLButtonElement>(".fold form .go")]
        .find((each) => each.textContent?.includes("Split off"))!
        .click(),
    );
    await until(({ document }) => document.parts.length === 3);
    expect(await names()).toEqual(["box", "ball", "ball.2"]);
    await page.keyboard.press("Escape");
  });

  it("edges by loop, creased and shown subdivided", async () => {
    await page.click("[aria-label='choose by edge']");
    await page.mouse.click(...(await onTable(0.28, 0.55)));
    expect(await chosen()).toMatch(/1 edge/);
    await press(page, "Crease chosen edges");
    await page.evaluate(() =>
      [...document.querySelectorAll<HTMLButtonElement>(".fold form .go")]
        .find((each) => each.textContent?.includes("Crease"))!
        .click(),
    );
    await until(({ title }) => title.includes("1 edges creased"));
    await page.evaluate(() =>
      document
        .querySelector<HTMLButtonElement>(
          "[aria-label='Levels of subdivision shown'] button:nth-child(3)",
        )!
        .click(),
    );
    await pause(500);
    await page.keyboard.press("Escape");
  });

  it("gives IDs and lists their colours", async () => {
    await press(page, "Give IDs");
    await until(({ document }) => document.palette.length > 0);
    await page.waitForSelector("input[type=color]");
  });
});

describe("what nobody sees", () => {
  it("is found, shown, counted by the threshold and left out", async () => {
    const inner = { ...cube(), positions: cube().positions.map((x) => x / 2) };
    await begin("nest", [{ name: "nest", mesh: joined(cube(), inner) }]);
    await stage("2");
    await press(page, "Find what nobody sees");
    await until(
      ({ document }) => document.reports["survey/unseen"] !== undefined,
    );
    await shows(page, "frees 12 triangles, 20.0 % of the sheet");
    await press(page, "Delete them");
    const { document } = await until(({ title }) =>
      title.startsWith("Leave unseen"),
    );
    expect(document.parts[0].source!.faces).toBe(6);
  });
});

describe("states", () => {
  it("are kept with a name and a picture, compared and restored", async () => {
    await blur();
    await page.keyboard.press("y");
    await page.waitForSelector("input[aria-label='Name of the snapshot']");
    await page.type("input[aria-label='Name of the snapshot']", "hollow");
    await press(page, "Keep as snapshot");
    await shows(page, "hollow");
    await page.waitForFunction(
      () =>
        document.querySelector<HTMLImageElement>(".snapshots img")
          ?.naturalWidth === 320,
      { timeout: 15_000 },
    );
    await page.evaluate(() =>
      [
        ...document.querySelectorAll<HTMLButtonElement>(
          ".revisions .acts button",
        ),
      ]
        .find((each) => each.textContent?.trim() === "Compare")!
        .click(),
    );
    await shows(page, "Stop comparing");
    expect(
      await page.$("[aria-label='Divider between both sides']"),
    ).not.toBeNull();
    const { number } = await asset();
    await page.evaluate(() =>
      [
        ...document.querySelectorAll<HTMLButtonElement>(
          ".revisions .acts button",
        ),
      ]
        .filter((each) => each.textContent?.trim() === "Restore")
        .at(-1)!
        .click(),
    );
    await until((answer) => answer.number === number + 1);
    expect((await asset()).title).toContain("Restored");
    await page.keyboard.press("Escape");
  });
});

describe("a budget under the knee of the curve", () => {
  it("is said before anything is reduced, with the budget that would do at hand", async () => {
    const { balls, wall } = ballsInRows(30);
    await begin("rows", [
      { name: "balls", mesh: balls },
      { name: "wall", mesh: wall },
    ]);
    await fill(page, "Triangles", "150");
    await press(page, "Keep this brief");
    await until(({ document }) => document.brief.triangles === 150);
    await stage("2");
    await press(page, "Survey the source");
    await shows(page, "triangles shapes break, those of 1 part here");
    await stage("3");
    await shows(page, "and the budget is 150: raise it");
    await shows(page, "Stand-in shapes");
    await shows(page, "Bake them only");
    const label = await page.evaluate(() =>
      [...document.querySelectorAll("button")]
        .map((button) => button.textContent?.trim() ?? "")
        .find((text) => text.startsWith("Raise to")),
    );
    await press(page, label!);
    const wanted = Number(label!.slice("Raise to ".length));
    await until(({ document }) => document.brief.triangles === wanted);
    await page.waitForFunction(
      () => !document.body.innerText.includes("shapes break"),
      { timeout: 15_000, polling: 100 },
    );
  });
});

describe("intake", () => {
  it("matches source and game meshes by a pattern tried live, and joins the rest by hand", async () => {
    await begin("pairs", [
      { name: "lid HD", mesh: sphere(20, 20) },
      { name: "pot HD", mesh: moved(sphere(20, 20), 3, 0, 0) },
    ]);
    await pick("[aria-labelledby=bring-role]", "game meshes");
    const joining = await page.$("[aria-labelledby=bring-join]");
    expect(await joining!.evaluate((each) => each.getAttribute("role"))).toBe(
      "switch",
    );
    const games = join(app.data, "games.obj");
    writeFileSync(
      games,
      await writeMeshFile("games.obj", [
        { name: "lid LD", mesh: sphere(6, 8) },
        { name: "cup LD", mesh: moved(sphere(6, 8), 3, 0, 0) },
      ]),
    );
    await give("Mesh files or a project", games);
    await until(({ document }) => document.parts.length === 4);
    await shows(page, "0 pairs, 2 sources and 2 game meshes left");
    const inputs = await page.$$(".patterns input");
    for (const [input, text] of [
      [inputs[0], "*_HD"],
      [inputs[1], "*_LD"],
    ] as const) {
      await input.click({ count: 3 });
      await input.type(text);
    }
    await shows(page, "1 pairs, 1 sources and 1 game meshes left");
    await press(page, "Match by name");
    await until(({ document }) => document.parts.length === 3);
    await press(page, "Join");
    await until(({ document }) => document.parts.length === 2);
    expect(
      (await asset()).document.parts.every((part) => part.source && part.game),
    ).toBe(true);
  });

  it("shows sources as they came, with their pictures and vertex colours", async () => {
    await pick("[aria-labelledby=bring-role]", "source meshes");
    const before = (await names()).length;
    const file = (name: string, bytes: string | Uint8Array) => {
      writeFileSync(join(app.data, name), bytes);
      return join(app.data, name);
    };
    const plain = (r: number, g: number, b: number) =>
      encode({
        width: 2,
        height: 2,
        data: Uint8Array.from({ length: 12 }, (_, i) => [r, g, b][i % 3]),
        channels: 3,
      });
    const corners = [
      [6, 0],
      [8, 0],
      [8, 2],
      [6, 2],
    ];
    const leaf = corners.map(([x, y]) => `v ${x} ${y} 0\nvt ${x} ${y}\n`);
    const sign = corners.map(([x, y]) => `v ${x + 3} ${y} 0 0 0 1\n`);
    await give(
      "Mesh files or a project",
      file(
        "panels.obj",
        `o leaf\nusemtl leaf\n${leaf.join("")}f 1/1 2/2 3/3 4/4\no sign\nusemtl plain\n${sign.join("")}f 5 6 7 8\n`,
      ),
      file("panels.mtl", "newmtl leaf\nKd 1 1 1\nmap_Kd leaf.png\n"),
      file("leaf.png", plain(10, 220, 10)),
    );
    await until(({ document }) => document.parts.length === before + 2);
    await press(page, "source");
    await blur();
    await page.keyboard.press("f");
    const green = () => pixels(page, (r, g, b) => g > 2 * r && g > 2 * b);
    const blue = () => pixels(page, (r, g, b) => b > 2 * r && b > 2 * g);
    expect([(await green()) > 300, (await blue()) > 300]).toEqual([
      false,
      false,
    ]);
    await press(page, "own look");
    for (let tries = 0; tries < 50 && (await green()) < 300; tries++)
      await pause(200);
    expect(await green()).toBeGreaterThan(300);
    expect(await blue()).toBeGreaterThan(300);
    await press(page, "own look");
    await pause(500);
    expect(await blue()).toBeLessThan(300);
  });

  it("keeps reference pictures", async () => {
    const path = join(app.data, "front.png");
    writeFileSync(
      path,
      encode({
        width: 20,
        height: 30,
        data: new Uint8Array(1800).fill(120),
        channels: 3,
        depth: 8,
      }),
    );
    await give("Reference pictures", path);
    await until(({ document }) => document.references.length === 1);
    await shows(page, "front.png");
    const up = "[aria-label='up of front.png, m']";
    await page.click(up, { count: 3 });
    await page.keyboard.type("0.25");
    await page.keyboard.press("Tab");
    await until(({ document }) => document.references[0].at[1] === 0.25);
    await press(page, "Remove");
    await until(({ document }) => document.references.length === 0);
  });

  it("sets the scale from a height", async () => {
    await press(page, "Set scale and axes");
    await fill(page, "Its height is", "0.5");
    await page.evaluate(() =>
      [...document.querySelectorAll<HTMLButtonElement>(".fold form .go")]
        .find((each) => each.textContent?.includes("Set scale"))!
        .click(),
    );
    await until(({ title }) => title.includes("× 0.500 ×"));
  });

  it("brings a part over from another asset", async () => {
    const before = (await names()).length;
    await press(page, "Bring a part over from another asset");
    await pick("[aria-label='Asset to bring a part over from']", "set");
    await page.waitForFunction(
      () =>
        document
          .querySelector("[aria-label='Part to bring over']")
          ?.getAttribute("aria-disabled") !== "true",
      { timeout: 15_000, polling: 100 },
    );
    await pick("[aria-label='Part to bring over']", "box");
    await press(page, "Bring it over");
    await until(({ document }) => document.parts.length === before + 1);
  });

  it("chooses and hides all parts that are listed, at once", async () => {
    await pick("[aria-label='Which parts to list']", "baked only");
    await shows(page, "Choose all");
    const rows = () =>
      page.$$eval(".ledger tbody tr", (found) =>
        found.map((row) => [
          row.classList.contains("p-datatable-row-selected"),
          row.querySelector(".part.off") !== null,
        ]),
      );
    const count = (await rows()).length;
    expect(count).toBeGreaterThan(1);
    await press(page, "Choose all");
    expect((await rows()).every(([chosen]) => chosen)).toBe(true);
    await press(page, "Hide all");
    expect((await rows()).every(([, off]) => off)).toBe(true);
    await press(page, "Show all");
    expect((await rows()).some(([, off]) => off)).toBe(false);
    await pick("[aria-label='Which parts to list']", "all parts");
  });
});

it("no error was left in the page", () => expect(errors).toEqual([]));
