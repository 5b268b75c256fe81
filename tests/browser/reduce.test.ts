import type { Browser, ElementHandle, Page } from "puppeteer-core";
import { afterAll, beforeAll, describe, expect, it } from "vitest";
import type { AssetDocument } from "../../core/asset/document";
import {
  App,
  fill,
  meshOnDisk,
  openBrowser,
  openPage,
  pause,
  press,
  runForm,
  shows,
  unfold,
  viewReady,
} from "./app";

interface Answer {
  title: string;
  jobs: { state: string }[];
  document: AssetDocument;
}

const app = new App();
const errors: string[] = [];
let browser: Browser;
let page: Page;
let id = 0;

/** Waits until nothing runs and something holds of the asset. */
async function until(
  holds: (document: AssetDocument) => boolean,
): Promise<AssetDocument> {
  for (let tries = 0; tries < 900; tries++) {
    const { jobs, document } = await app.json<Answer>(`assets/${id}`);
    const busy = jobs.some((job) => ["running", "queued"].includes(job.state));
    if (!busy && holds(document)) {
      await viewReady(page);
      return document;
    }
    await pause(100);
  }
  throw new Error("it did not come about");
}
const triangles = (document: AssetDocument) =>
  document.parts.reduce((sum, part) => sum + (part.game?.triangles ?? 0), 0);

const unfoldAndRun = (title: string) => unfold(page, title);
const runUnfolded = (title: string) => runForm(page, title);

beforeAll(async () => {
  await app.start();
  browser = await openBrowser();
  page = await openPage(browser, errors);
  await page.goto(app.url);
  id = await page.evaluate(
    async () =>
      (
        (await (
          await fetch("/api/assets", {
            method: "POST",
            headers: { "Content-Type": "application/json" },
            body: JSON.stringify({ name: "ball" }),
          })
        ).json()) as { id: number }
      ).id,
  );
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
}, 120_000);
afterAll(async () => {
  await browser?.close();
  await app.remove();
});

describe("the budget", () => {
  it("is reduced to, with the figures of judging", async () => {
    const placeholder = await page.$eval(
      "#reduce-to-budget-triangles",
      (input) => (input as HTMLInputElement).placeholder,
    );
    expect(placeholder).toMatch(/^[\d\u2009]+ from the brief$/);
    await fill(page, "Triangles", "1500");
    await press(page, "Reduce to the budget");
    const document = await until((each) => triangles(each) > 0);
    expect(triangles(document)).toBeLessThanOrEqual(1500);
    await shows(page, "Error against triangles");
    await shows(page, "Worst places");
    await shows(page, "Silhouettes that differ most");
    await shows(page, "What 100 triangles buy");
  });

  it("is dragged along the curve, shown at once, and kept", async () => {
    await page.focus("[aria-label='Budget along the curve']");
    for (let k = 0; k < 60; k++) await page.keyboard.press("ArrowLeft");
    await shows(page, "shown as a preview");
    await shows(page, "found in");
    const said = await page.$eval(".said", (each) => each.textContent ?? "");
    const tried = Number(
      said
        .replace(/[^\d ]/g, "")
        .trim()
        .split(" ")[0]
        .slice(0, 4),
    );
    expect(tried).toBeGreaterThan(10);
    expect(triangles(await until(() => true))).toBeGreaterThan(1400);
    await press(page, "Reduce to this");
    const document = await until((each) => triangles(each) < 1450);
    expect(triangles(document)).toBeGreaterThan(100);
  });
});

describe("other ways", () => {
  it("make levels of detail that can be looked at", async () => {
    await unfoldAndRun("Levels of detail");
    const made = await until((each) => each.parts[0].levels.length > 0);
    expect(made.parts[0].levels.length).toBe(3);
    await page.evaluate(() =>
      [
        ...document.querySelectorAll<HTMLButtonElement>(
          "[aria-label='Level shown'] button",
        ),
      ][2].click(),
    );
    await shows(page, "level 2 shown");
  });

  it("show distance and quality over the surface with their legend", async () => {
    await press(page, "distance");
    await shows(page, "game mesh inside");
    await press(page, "quality");
    await shows(page, "equilateral");
  });
});

/** Presses a button of a group of switches by its label. */
const presses = (group: string, label: string) =>
  page.evaluate(
    ([name, text]) =>
      [
        ...document.querySelectorAll<HTMLButtonElement>(
          `[aria-label='${name}'] button`,
        ),
      ]
        .find((button) => button.textContent?.trim() === text)
        ?.click(),
    [group, label],
  );
/** The middle of the table. */
async function middle(): Promise<[number, number]> {
  const canvas = (await page.$("canvas[data-test=view]"))!;
  const box = (await canvas.boundingBox())!;
  return [box.x + box.width / 2, box.y + box.height / 2];
}

describe("density and quads", () => {
  it("paints where it is wanted finer, in one stroke", async () => {
    await page.keyboard.press("Escape");
    await press(page, "source");
    await viewReady(page);
    await presses("Density brush", "finer");
    await shows(page, "Drag over the source");
    const [x, y] = await middle();
    await page.mouse.move(x - 40, y);
    await page.mouse.down();
    await page.mouse.move(x + 40, y, { steps: 6 });
    await page.mouse.up();
    await until((each) => Boolean(each.parts[0].source?.streams.density));
    await shows(page, "faces finer");
    await presses("Density brush", "no brush");
    // What was painted is not left chosen.
    expect(await page.$(".chosen")).toBeNull();
  });

  it("lays even quads by their button", async () => {
    await unfoldAndRun("Even quads");
    const laid = await until(
      (each) => each.results.reduce?.operation === "reduce/even-quads",
    );
    expect(Number(laid.results.reduce!.report.quads)).toBeGreaterThan(0.9);
  });
});

describe("shapes and details", () => {
  it("tries a chosen detail as geometry and as map, side by side", async () => {
    await press(page, "source");
    await viewReady(page);
    await page.evaluate(() =>
      document
        .querySelector<HTMLButtonElement>("[aria-label='choose by brush']")
        ?.click(),
    );
    const [x, y] = await middle();
    await page.mouse.click(x, y);
    await page.waitForSelector(".chosen", { timeout: 20_000 });
    await unfoldAndRun("Try both");
    await until((each) => each.reports["reduce/try-both"] !== undefined);
    await shows(page, "silhouette loses");
    await shows(page, "detail as map");
    await press(page, "Show it as it is");
    await page.keyboard.press("Escape");
  });

  it("puts a shape in the place of the part, with other sides, and takes it away again", async () => {
    await unfoldAndRun("Stand-in shapes");
    const stood = await until((each) => each.parts[0].standIns.length === 1);
    const before = stood.parts[0].game!.triangles;
    await shows(page, "Shapes in place");
    const sides = "[aria-label='Sides of the shape in ball']";
    await page.waitForSelector(sides);
    await page.click(sides, { count: 3 });
    // What does not fit is said at the field, and nothing is made of it.
    await page.keyboard.type("200");
    await shows(page, "64 is the most");
    await page.keyboard.press("Enter");
    expect((await until(() => true)).parts[0].standIns[0].sides).toBe(
      stood.parts[0].standIns[0].sides,
    );
    await page.click(sides, { count: 3 });
    await page.keyboard.type("20");
    await page.keyboard.press("Enter");
    const more = await until((each) => each.parts[0].standIns[0].sides === 20);
    expect(more.parts[0].game!.triangles).toBeGreaterThan(before);
    await press(page, "Drop");
    await until((each) => each.parts[0].standIns.length === 0);
  });
});

describe("a single part and clinging", () => {
  it("drags the curve of one part and gives it a budget of its own", async () => {
    await page.keyboard.press("Escape");
    await fill(page, "Triangles", "900");
    await press(page, "Reduce to the budget");
    await until(
      (each) =>
        each.results.reduce?.operation === "reduce/to-budget" &&
        triangles(each) > 800,
    );
    await page.click(".ledger .part");
    await page.focus("[aria-label='Budget along the curve']");
    for (let k = 0; k < 40; k++) await page.keyboard.press("ArrowLeft");
    await shows(page, "shown as a preview");
    await press(page, "Give it these");
    const kept = await until(
      ({ parts: [part] }) =>
        part.budget > 0 && part.game!.triangles <= part.budget,
    );
    expect(triangles(kept)).toBeLessThan(900);
  });

  it("chooses edges by a stroke, as guides for even quads", async () => {
    await page.keyboard.press("Escape");
    await press(page, "source");
    await viewReady(page);
    await page.evaluate(() =>
      document
        .querySelector<HTMLButtonElement>("[aria-label='choose by stroke']")
        ?.click(),
    );
    const [x, y] = await middle();
    await page.mouse.move(x - 50, y);
    await page.mouse.down();
    await page.mouse.move(x + 50, y + 10, { steps: 5 });
    await page.mouse.up();
    await page.waitForFunction(() =>
      /[2-9]\d* edges/.test(
        document.querySelector(".chosen")?.textContent ?? "",
      ),
    );
    await unfoldAndRun("Even quads");
    const laid = await until(
      (each) => each.results.reduce?.operation === "reduce/even-quads",
    );
    expect(
      (laid.results.reduce!.options.guides as string[]).length,
    ).toBeGreaterThan(1);
    await page.keyboard.press("Escape");
  });

  it("clings to the source and mends what it could not reach", async () => {
    await page.keyboard.press("Escape");
    await press(page, "Cling to the source");
    await fill(page, "Offset", "40");
    await runUnfolded("Cling to the source");
    await until((each) => each.reports["reduce/cling"] !== undefined);
    await fill(page, "Offset", "0");
    await fill(page, "Reach", "1");
    await runUnfolded("Cling to the source");
    await shows(page, "found no source within reach");
    const left = (each: AssetDocument) =>
      (each.reports["reduce/cling"].report.findings as unknown[]).length;
    for (let missed = left(await until(() => true)); missed > 0; missed--) {
      await press(page, "Reach");
      await until((each) => left(each) === missed - 1);
    }
  });
});

describe("comparing", () => {
  it("lays one over the other, lets them take turns, and shows both as a game would", async () => {
    await page.keyboard.press("Escape");
    await fill(page, "Triangles", "900");
    await press(page, "Reduce to the budget");
    await until(
      (each) => each.results.reduce?.operation === "reduce/to-budget",
    );
    await press(page, "compare");
    await press(page, "overlay");
    expect(await page.$(".divider")).toBeNull();
    await press(page, "blink");
    await press(page, "divider");
    await page.waitForSelector(".divider");
    await page.focus("[aria-label='Height on the screen']");
    for (let k = 0; k < 6; k++) await page.keyboard.press("ArrowRight");
    await shows(page, "source and game mesh, 120 px high");
    // The worst silhouettes are drawn, not blank.
    const inked = await page.$eval("canvas[aria-label='View 1']", (canvas) => {
      const { data } = (canvas as HTMLCanvasElement)
        .getContext("2d")!
        .getImageData(
          0,
          0,
          (canvas as HTMLCanvasElement).width,
          (canvas as HTMLCanvasElement).height,
        );
      return data.some((value) => value > 0);
    });
    expect(inked).toBe(true);
  });
});

it("logs no error in the page", () => {
  expect(errors).toEqual([]);
});
