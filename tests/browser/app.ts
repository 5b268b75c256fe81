import { writeFileSync } from "node:fs";
import { join } from "node:path";
import { decode } from "fast-png";
import type { Browser, Page } from "puppeteer-core";
import { launchBrowser } from "../../scripts/browser.mjs";
import { writeMeshFile } from "../../core/formats/index";
import { joined, moved, sphere } from "../shapes";

export { ServerProcess as App, pause } from "../server-process";

export function openBrowser(): Promise<Browser> {
  return launchBrowser();
}

/** Sets how large a page is, in CSS pixels. Half a pixel each is drawn: without a graphics card it is pixels that cost. */
export function sizeOf(page: Page, width: number, height: number) {
  return page.setViewport({ width, height, deviceScaleFactor: 0.5 });
}

/** A page that fails the test on an error in the page. */
export async function openPage(
  browser: Browser,
  errors: string[],
): Promise<Page> {
  const page = await browser.newPage();
  await sizeOf(page, 1280, 800);
  page.on("pageerror", (error) =>
    errors.push(error instanceof Error ? error.message : String(error)),
  );
  page.on("console", (message) => {
    if (message.type() === "error" && !/status of 4\d\d/.test(message.text()))
      errors.push(message.text());
  });
  return page;
}

/** Waits until the page shows a text. */
export async function shows(
  page: Page,
  text: string,
  timeout = 30_000,
): Promise<void> {
  const wait = page.waitForFunction(
    (wanted: string) =>
      document.body.innerText.replace(/[\u2009\u00a0]/g, " ").includes(wanted),
    { timeout, polling: 100 },
    text,
  );
  await wait.catch(async () => {
    const seen = await page.evaluate(() => document.body.innerText);
    throw new Error(`"${text}" is not shown; the page says: ${seen}`);
  });
}

/** Presses the visible button with a text. */
export async function press(page: Page, label: string): Promise<void> {
  const handle = await page.waitForFunction(
    (wanted: string) =>
      [...document.querySelectorAll<HTMLButtonElement>("button, a")].find(
        (each) =>
          (each.textContent?.trim() === wanted ||
            each.getAttribute("aria-label") === wanted) &&
          !(each as HTMLButtonElement).disabled,
      ),
    { timeout: 30_000, polling: 100 },
    label,
  );
  await (handle.asElement() as unknown as { click(): Promise<void> }).click();
}

/** Unfolds an operation where it is not, and runs it with the options it shows. */
export async function unfold(page: Page, title: string): Promise<void> {
  const open = await page.evaluate(
    (wanted: string) =>
      [...document.querySelectorAll(".fold")].some(
        (fold) =>
          fold.querySelector(".link-action")?.textContent?.trim() === wanted &&
          fold.querySelector("form"),
      ),
    title,
  );
  if (!open) await press(page, title);
  await runForm(page, title);
}

/** Runs an operation whose form is open. */
export async function runForm(page: Page, title: string): Promise<void> {
  const handle = await page.waitForFunction(
    (wanted: string) =>
      [...document.querySelectorAll(".fold")]
        .find(
          (fold) =>
            fold.querySelector(".link-action")?.textContent?.trim() === wanted,
        )
        ?.querySelector<HTMLButtonElement>("form .go:not(:disabled)"),
    { timeout: 30_000, polling: 100 },
    title,
  );
  await page.evaluate(
    (button) => (button as HTMLButtonElement).click(),
    handle,
  );
}

/** Types into the field with a label. */
export async function fill(
  page: Page,
  label: string,
  value: string,
): Promise<void> {
  const id = await page.evaluate(
    (wanted) =>
      [...document.querySelectorAll("label")].find(
        (each) => each.textContent?.trim() === wanted,
      )?.htmlFor,
    label,
  );
  await page.click(`#${id}`, { count: 3 });
  await page.keyboard.type(value);
  await page.keyboard.press("Tab");
}

/** How many pixels of the page are of a kind. @param is is given red, green and blue, 0 … 255 */
export async function pixels(
  page: Page,
  is: (red: number, green: number, blue: number) => boolean,
): Promise<number> {
  const { data, channels } = decode(await page.screenshot());
  let count = 0;
  for (let i = 0; i < data.length; i += channels)
    if (is(data[i], data[i + 1], data[i + 2])) count++;
  return count;
}

export async function viewReady(page: Page): Promise<void> {
  await page.waitForSelector("canvas[data-ready=true]", { timeout: 60_000 });
}

/** A file on disk: a bumpy ball with a stud beside it, two parts. */
export async function meshOnDisk(
  folder: string,
  name: string,
): Promise<string> {
  const ball = sphere(
    80,
    100,
    0.1,
    (a, t) => 0.004 * Math.sin(9 * a) * Math.cos(6 * t),
  );
  const path = join(folder, name);
  writeFileSync(
    path,
    await writeMeshFile(name, [
      { name: "ball", mesh: ball },
      { name: "stud", mesh: moved(joined(sphere(16, 20, 0.03)), 0.15, 0, 0) },
    ]),
  );
  return path;
}
