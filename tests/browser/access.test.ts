import { readFileSync } from "node:fs";
import { createRequire } from "node:module";
import type * as axe from "axe-core";
import { afterAll, beforeAll, describe, expect, it } from "vitest";
import { meshOnDisk, pause, press, shows } from "./app";
import { Session } from "./session";

const session = new Session();
const AXE = readFileSync(
  createRequire(import.meta.url).resolve("axe-core/axe.min.js"),
  "utf8",
);

/** What the page does wrong by the rules of accessibility, as `rule: where`. */
async function violations(): Promise<string[]> {
  const { page } = session;
  await page.evaluate(AXE);
  return page.evaluate(async () => {
    const { axe } = window as unknown as { axe: typeof import("axe-core") };
    const found: axe.AxeResults = await axe.run(document, {
      resultTypes: ["violations"],
    });
    return found.violations.flatMap(({ id, nodes }) =>
      nodes.map(({ target, failureSummary }) =>
        `${id}: ${target.join(" ")} ${failureSummary ?? ""}`.slice(0, 300),
      ),
    );
  });
}
const active = () =>
  session.page.evaluate(() => {
    const { activeElement } = document;
    return (
      activeElement?.getAttribute("aria-label") ??
      activeElement?.textContent?.trim() ??
      ""
    );
  });
const chosenWords = () =>
  session.page.evaluate(
    () => document.querySelector("p.chosen")?.textContent?.trim() ?? "",
  );
async function onTable(): Promise<void> {
  await session.page.evaluate(() =>
    document.querySelector<HTMLElement>("main.table")!.focus(),
  );
}

beforeAll(async () => {
  await session.open();
  await session.begin("ball");
  const { app, page } = session;
  await session.run("intake/brief", { triangles: 900, sheet: "256" });
  await session.bringIn(await meshOnDisk(app.data, "ball.obj"));
  await press(page, "Run the route");
  await session.idle(({ standing }) =>
    standing.every(
      ({ stage, state }) =>
        state === "current" || stage === "ship" || stage === "finish",
    ),
  );
}, 240_000);
afterAll(() => session.close());

describe("every main screen", () => {
  it("breaks no rule of accessibility, in light and in dark, folded and unfolded", async () => {
    const { page, app } = session;
    const found: Record<string, string[]> = {};
    const check = async (screen: string) => {
      const list = await violations();
      if (list.length) found[screen] = list;
    };
    for (const theme of ["light", "dark"]) {
      for (let stage = 1; stage <= 9; stage++) {
        await session.stage(String(stage));
        await pause(300);
        await check(`stage ${stage}, ${theme}`);
        if (theme === "dark") continue;
        await page.evaluate(() => {
          for (const fold of document.querySelectorAll(".fold"))
            if (!fold.querySelector("form"))
              fold.querySelector<HTMLElement>(".link-action")?.click();
        });
        await pause(200);
        await check(`stage ${stage}, unfolded`);
      }
      for (const key of ["?", "y"]) {
        await session.blur();
        await page.keyboard.press(key as "y");
        await pause(300);
        await check(`panel ${key}, ${theme}`);
        await page.keyboard.press("Escape");
      }
      await session.chord("k", "Control");
      await pause(200);
      await check(`find, ${theme}`);
      await page.keyboard.press("Escape");
      if (theme === "light") await press(page, "dark");
    }
    await press(page, "light");
    await page.goto(app.url);
    await shows(page, "Begin an asset");
    await page.waitForSelector(".card");
    await check("all assets");
    expect(found).toEqual({});
    await page.goto(`${app.url}/asset/${session.id}`);
    await session.idle();
  });
});

describe("without a mouse", () => {
  it("parts and faces are chosen on the table by the aim, added to and taken from", async () => {
    const { page } = session;
    await session.stage("3");
    await page.keyboard.press("g");
    await page.keyboard.press("f");
    await pause(800);
    await onTable();
    await page.keyboard.press("Enter");
    await page.waitForSelector("[data-test=aim]");
    for (let i = 0; i < 4; i++) await page.keyboard.press("ArrowLeft");
    await page.keyboard.press("Space");
    await page.waitForFunction(() =>
      document.querySelector("p.chosen")?.textContent?.includes("1 part"),
    );
    await page.waitForFunction(() =>
      document
        .querySelector(".shop > [role=status]")
        ?.textContent?.includes("1 part"),
    );
    await page.keyboard.press("Escape");
    await page.waitForFunction(
      () => !document.querySelector("[data-test=aim]"),
    );

    await page.keyboard.press("Escape");
    await session.chord("F", "Shift");
    await onTable();
    await page.keyboard.press("Enter");
    for (let i = 0; i < 4; i++) await page.keyboard.press("ArrowLeft");
    const faces = (count: string) =>
      page.waitForFunction(
        (wanted: string) =>
          document.querySelector("p.chosen")?.textContent?.includes(wanted),
        {},
        count,
      );
    await page.keyboard.press("Space");
    await faces("1 face");
    for (let i = 0; i < 6; i++) await page.keyboard.press("ArrowUp");
    await session.chord("Space", "Shift");
    await faces("2 faces");
    await session.chord("Space", "Control");
    await faces("1 face");
    await page.keyboard.press("Escape");
  });

  it("faces are painted over from one press of Space to the next", async () => {
    const { page } = session;
    await session.chord("B", "Shift");
    await onTable();
    await page.keyboard.press("Enter");
    await page.keyboard.press("Space");
    for (let i = 0; i < 5; i++) await page.keyboard.press("ArrowLeft");
    await page.keyboard.press("Space");
    await page.waitForFunction(() =>
      /\d+ faces/.test(document.querySelector("p.chosen")?.textContent ?? ""),
    );
    await pause(300);
    expect(parseInt(await chosenWords())).toBeGreaterThan(3);
    await page.keyboard.press("Escape");
    await page.keyboard.press("Escape");
  });

  it("an edge is chosen where a click takes edges", async () => {
    const { page } = session;
    await session.stage("5");
    await session.chord("E", "Shift");
    await onTable();
    await page.keyboard.press("Enter");
    await page.keyboard.press("Space");
    await page.waitForFunction(() =>
      document.querySelector("p.chosen")?.textContent?.includes("1 edge"),
    );
    await page.keyboard.press("Escape");
    await page.keyboard.press("Escape");
    await session.chord("P", "Shift");
  });

  it("parts are chosen in the ledger", async () => {
    const { page } = session;
    await page.focus(".ledger tbody tr");
    await page.keyboard.press("ArrowDown");
    await page.keyboard.press("Space");
    await page.waitForFunction(
      () =>
        document.querySelectorAll(".ledger tr[aria-selected=true]").length ===
        1,
    );
    await session.blur();
    await page.keyboard.press("Escape");
  });

  it("arrow keys go through what a click takes, and Tab leaves the row", async () => {
    const { page } = session;
    await session.stage("2");
    await page.focus("[aria-label='choose by part']");
    await page.keyboard.press("ArrowRight");
    expect(await active()).toBe("choose by component");
    expect(
      await page.$eval("[aria-label='choose by component']", (each) =>
        each.getAttribute("aria-checked"),
      ),
    ).toBe("true");
    await page.keyboard.press("Tab");
    expect(await active()).toBe("choose by click");
    await session.chord("P", "Shift");
  });
});

describe("single keys", () => {
  it("can be switched off for good; Ctrl K finds everything still", async () => {
    const { page } = session;
    await session.stage("2");
    await page.keyboard.press("?");
    await page.waitForSelector("#single-keys");
    await page.click("label[for='single-keys']");
    await shows(page, "Ctrl K finds everything by name");
    await page.reload();
    await session.idle();
    await session.stage("5");
    await page.keyboard.press("?");
    await pause(300);
    // Neither the digit nor the sign did anything.
    await shows(page, "What came in, what is wrong with it");
    expect(await page.$("#single-keys")).toBeNull();
    await session.chord("k", "Control");
    await page.waitForSelector("[role=combobox][aria-controls=commands-found]");
    await page.keyboard.type("keys");
    const option = await page.$eval(
      "[aria-controls=commands-found]",
      (each) =>
        document.getElementById(each.getAttribute("aria-activedescendant")!)!
          .textContent,
    );
    expect(option).toContain("Keys");
    await page.keyboard.press("Enter");
    await page.waitForSelector("#single-keys");
    await page.click("label[for='single-keys']");
    await page.keyboard.press("Escape");
    await session.stage("5");
    await shows(page, "Cut, unfold, even out, pack.");
  });

  it("left no error in the page", () => expect(session.errors).toEqual([]));
});
