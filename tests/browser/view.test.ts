import { writeFileSync } from "node:fs";
import { join } from "node:path";
import { decode } from "fast-png";
import type { Browser, ElementHandle, HTTPRequest, Page } from "puppeteer-core";
import { afterAll, beforeAll, describe, expect, it } from "vitest";
import { writeMeshFile } from "../../core/formats/index";
import { moved, sphere } from "../shapes";
import type { Answer } from "./session";
import {
  App,
  fill,
  openBrowser,
  openPage,
  pause,
  press,
  shows,
  sizeOf,
  viewReady,
} from "./app";

const app = new App();
const errors: string[] = [];
let browser: Browser;
let page: Page;
let id = 0;
let file = "";
const answer = (of = id) => app.json<Answer>(`assets/${of}`);
const idle = async (holds: (answer: Answer) => boolean = () => true) => {
  for (let tries = 0; tries < 1200; tries++) {
    const found = await answer();
    const busy = found.jobs.some((job) =>
      ["running", "queued"].includes(job.state),
    );
    if (!busy && holds(found)) {
      await viewReady(page);
      return found;
    }
    await pause(100);
  }
  throw new Error("it did not come about");
};
const blur = () =>
  page.evaluate(() => (document.activeElement as HTMLElement | null)?.blur());
async function stage(key: string): Promise<void> {
  await blur();
  await page.keyboard.press(key as "1");
  await pause(150);
}
async function shiftKey(key: string): Promise<void> {
  await page.keyboard.down("Shift");
  await page.keyboard.press(key as "F");
  await page.keyboard.up("Shift");
}
/** What the switches over table and sheet say is shown. */
const switchedOn = () =>
  page.evaluate(() =>
    [...document.querySelectorAll(".switches button.on")].map((each) =>
      each.textContent!.trim(),
    ),
  );
const boxOf = async (selector: string) =>
  (await (await page.waitForSelector(selector))!.boundingBox())!;
const active = () =>
  page.evaluate(() => {
    const { activeElement } = document;
    return (
      activeElement?.getAttribute("aria-label") ||
      activeElement?.textContent?.trim() ||
      activeElement?.tagName
    );
  });
const valueOf = (label: string) =>
  page.evaluate((wanted) => {
    const found = [...document.querySelectorAll("label")].find(
      (each) => each.textContent?.trim() === wanted,
    );
    return document.querySelector<HTMLInputElement>(`#${found!.htmlFor}`)!
      .value;
  }, label);

/** Holds what is posted to an address back until it is released; then all goes on as ever. */
async function holding(
  matches: RegExp,
  work: (release: () => Promise<void>) => Promise<void>,
) {
  const held: HTTPRequest[] = [];
  let holds = true;
  const hold = (request: HTTPRequest) => {
    if (holds && request.method() === "POST" && matches.test(request.url()))
      held.push(request);
    else
      // One that came in before any was looked at, or just as none is any more, goes on by itself.
      void request.continue().catch((error: unknown) => {
        if (holds && !/not enabled/.test(String(error))) throw error;
      });
  };
  const release = async () => {
    // What the answers ask for is still looked at here, so it has to be sent on as well.
    holds = false;
    for (const request of held.splice(0)) await request.continue();
    // Requests of the view's worker wait as long as any are looked at.
    await page.setRequestInterception(false);
    page.off("request", hold);
  };
  // In this order: one that is looked at while nobody listens would never go on.
  page.on("request", hold);
  await page.setRequestInterception(true);
  try {
    await work(release);
  } finally {
    // What went wrong here is not to go wrong in the tests after it.
    await release();
  }
}

beforeAll(async () => {
  await app.start();
  browser = await openBrowser();
  page = await openPage(browser, errors);
  await sizeOf(page, 1280, 800);
  const bumpy = sphere(
    60,
    80,
    0.1,
    (a, t) => 0.004 * Math.sin(9 * a) * Math.cos(6 * t),
  );
  file = join(app.data, "gate float.glb");
  writeFileSync(
    file,
    await writeMeshFile("gate float.glb", [
      { name: "a long name of a float that ends in left", mesh: bumpy },
      { name: "stud", mesh: moved(sphere(16, 20, 0.03), 0.16, 0, 0) },
    ]),
  );
}, 120_000);
afterAll(async () => {
  await browser?.close();
  await app.remove();
});

describe("the first asset of somebody who never saw Arnik", () => {
  it("is an archive after one file and three clicks, and the gauge shows how it comes about", async () => {
    await page.goto(app.url);
    await press(page, "Begin an asset");
    await shows(page, "Choose files…");
    id = Number(page.url().split("/").pop());
    await app.json(`assets/${id}/run`, "POST", {
      revision: (await answer()).revision,
      operation: "intake/brief",
      options: { name: "Gate float", triangles: 900, sheet: "256" },
    });
    // A file that goes to a revision which is past is refused, and the page may not have heard of the new one yet.
    await shows(page, "revision 2");
    const input = (await page.waitForSelector(
      "input[aria-label='Mesh files or a project']",
    )) as ElementHandle<HTMLInputElement>;
    await input.uploadFile(file);
    await idle(({ document }) => document.parts.length === 2);
    await press(page, "Run the route");
    // Stages become current one after the other, while the route is still running.
    const seen = new Set<number>();
    for (let tries = 0; tries < 2400; tries++) {
      const current = await page.$$eval(
        ".route .stage.current",
        (rows) => rows.length,
      );
      seen.add(current);
      const { jobs } = await answer();
      if (jobs[0]?.operation === "route/run" && jobs[0].state === "done") break;
      await pause(50);
    }
    expect(seen.size).toBeGreaterThan(3);
    const { standing, jobs, document: made } = await idle();
    expect(
      standing.flatMap(({ stage, state }) =>
        state === "current" ? [stage] : [],
      ),
    ).toEqual([
      "intake",
      "survey",
      "reduce",
      "edges",
      "unwrap",
      "bake",
      "collide",
      "ship",
    ]);
    expect(
      made.parts.reduce((sum, { game }) => sum + game!.triangles, 0),
    ).toBeLessThanOrEqual(900);
    await shows(page, "Save the archive");
    const archive = await fetch(`${app.url}/api/jobs/${jobs[0].id}/file`);
    expect(archive.headers.get("content-type")).toBe("application/zip");
  }, 240_000);

  it("was made step by step, and every step can be undone", async () => {
    const { number } = await answer();
    await blur();
    await page.keyboard.press("u");
    for (let tries = 0; tries < 100; tries++) {
      if ((await answer()).number < number) break;
      await pause(100);
    }
    const { standing } = await answer();
    const stateOf = (wanted: string) =>
      standing.find((each) => each.stage === wanted)!.state;
    expect([stateOf("collide"), stateOf("ship")]).toEqual(["current", "empty"]);
    await page.keyboard.press("r");
    await idle((found) => found.number === number);
  });
});

describe("the view", () => {
  it("shows what each stage makes", async () => {
    await stage("5");
    await page.waitForSelector("[data-test=sheet]");
    expect(await switchedOn()).toEqual([
      "game",
      "seams",
      "checker",
      "sheet",
      "islands",
    ]);
    await stage("6");
    expect(await switchedOn()).toEqual(["baked", "sheet", "normal map"]);
    await stage("8");
    expect(await switchedOn()).toEqual(["game", "hulls", "solid"]);
    await stage("3");
    expect(await switchedOn()).toEqual(["compare", "divider", "wire"]);
    await stage("4");
    expect(await switchedOn()).toEqual(["game", "hard edges"]);
  });

  it("is left at each stage as it was, and a result is shown where it was hidden", async () => {
    await stage("8");
    await page.keyboard.press("h");
    await page.keyboard.press("s");
    await stage("3");
    await stage("8");
    expect(await switchedOn()).toEqual(["source"]);
    await press(page, "Make hulls");
    await idle();
    expect(await switchedOn()).toEqual(["game", "hulls", "solid"]);
  });

  it("is split as one likes: dragged, turned, swapped, also after a reload", async () => {
    await stage("5");
    const before = await boxOf("[data-test=sheet]");
    const edge = await boxOf("[aria-label='Edge between table and sheet']");
    await page.mouse.move(edge.x + 4, edge.y + 400);
    await page.mouse.down();
    await page.mouse.move(edge.x + 104, edge.y + 400, { steps: 5 });
    await page.mouse.up();
    await pause(150);
    const narrow = await boxOf("[data-test=sheet]");
    expect(before.width - narrow.width).toBeGreaterThan(80);
    await press(page, "swap");
    await pause(150);
    const first = await boxOf("[data-test=sheet]");
    expect(first.x).toBeLessThan((await boxOf("[data-test=table]")).x);
    await press(page, "turn");
    await pause(150);
    const above = await boxOf("[data-test=sheet]");
    expect(above.y).toBeLessThan((await boxOf("[data-test=table]")).y);
    expect(above.width).toBe((await boxOf("[data-test=table]")).width);
    await page.focus("[aria-label='Edge between table and sheet']");
    await page.keyboard.press("ArrowUp");
    await pause(150);
    const nudged = await boxOf("[data-test=sheet]");
    expect(nudged.height).toBeLessThan(above.height);
    await page.reload();
    await viewReady(page);
    expect((await boxOf("[data-test=sheet]")).height).toBe(nudged.height);
    await press(page, "turn");
    await press(page, "swap");
  });

  it("goes nearer to what is under the pointer", async () => {
    await stage("8");
    await page.keyboard.press("f");
    await pause(400);
    const target = () =>
      page.evaluate(
        (of) =>
          (
            JSON.parse(localStorage.getItem(`arnik.view.${of}`)!) as {
              camera: { target: number[]; distance: number };
            }
          ).camera,
        id,
      );
    const before = await target();
    const box = await boxOf("[data-test=table]");
    await page.mouse.move(box.x + 0.75 * box.width, box.y + box.height / 2);
    await page.mouse.wheel({ deltaY: -500 });
    /** The camera, once the view has moved it: it draws in its own time. */
    const changed = async (from: typeof before) => {
      for (let tries = 0; tries < 100; tries++) {
        const now = await target();
        if (JSON.stringify(now) !== JSON.stringify(from)) return now;
        await pause(100);
      }
      throw new Error("the camera did not move");
    };
    const after = await changed(before);
    expect(after.distance).toBeLessThan(before.distance);
    const moved = Math.hypot(
      ...after.target.map((x, k) => x - before.target[k]),
    );
    expect(moved).toBeGreaterThan(0.02 * before.distance);
    await page.mouse.click(box.x + 0.5 * box.width, box.y + box.height / 2, {
      count: 2,
    });
    expect((await changed(after)).target).not.toEqual(after.target);
    await page.keyboard.press("f");
    await page.keyboard.press("Escape");
  });

  it("lights the game mesh so that its form shows: nothing burns out, nothing drowns", async () => {
    await stage("4");
    await page.keyboard.press("e");
    await page.keyboard.press("f");
    await pause(1200);
    const { data, channels } = decode(
      await page.screenshot({ clip: await boxOf("[data-test=table]") }),
    );
    let [burnt, drowned, light, dark] = [0, 0, 0, 0];
    for (let i = 0; i < data.length; i += channels) {
      const [red, green, blue] = data.subarray(i, i + 3);
      // Bone is warmer than the fog behind it.
      if (red <= blue + 3) continue;
      if (Math.min(red, green, blue) > 250) burnt++;
      else if (red < 40) drowned++;
      else if (red > 190) light++;
      else dark++;
    }
    expect(burnt).toBe(0);
    expect(drowned).toBeLessThan(0.02 * (light + dark));
    expect(light).toBeGreaterThan(0.1 * (light + dark));
    expect(dark).toBeGreaterThan(0.1 * (light + dark));
    await page.keyboard.press("e");
  });

  it("cuts nothing off at 1000 px", async () => {
    await sizeOf(page, 1000, 700);
    const found: Record<string, object> = {};
    for (const key of ["1", "2", "3", "4", "5", "6", "7", "8", "9"]) {
      await stage(key);
      const wide = await page.evaluate(() => ({
        page: document.documentElement.scrollWidth,
        cut: [
          ...document.querySelectorAll<HTMLElement>(
            ".gauge, .tools .row, .bench, .log .side, .ledger, .switches",
          ),
        ]
          .filter((each) => each.scrollWidth > each.clientWidth + 1)
          .map((each) => `${each.className} ${each.scrollWidth}`),
      }));
      found[key] = wide;
    }
    await sizeOf(page, 1280, 800);
    await pause(300);
    for (const [key, wide] of Object.entries(found))
      expect(wide, key).toEqual({ page: 1000, cut: [] });
  });
});

describe("tools", () => {
  it("say their words, stay where they are, and go by key", async () => {
    await stage("5");
    const places = () =>
      page.$$eval("[aria-label=Tools] button", (all) =>
        all.map((each) => {
          const { x, y, width } = each.getBoundingClientRect();
          return [each.textContent!.trim(), x, y, width];
        }),
      );
    const before = await places();
    expect(before.map(([word]) => word)).toEqual([
      ...["part", "component", "face", "island", "edge", "loop", "ring"],
      ...["seam", "region", "click", "flood", "brush", "box", "stroke"],
      ...["grow", "shrink", "invert"],
    ]);
    for (const key of ["F", "O", "B", "X", "E", "T", "S", "I", "P"]) {
      await shiftKey(key);
      await pause(60);
      expect(await places(), key).toEqual(before);
    }
    await shiftKey("B");
    await page.waitForFunction(
      () =>
        document
          .querySelector("[aria-label='choose by brush']")!
          .getAttribute("aria-checked") === "true",
    );
    await page.keyboard.press("q");
    await shiftKey("P");
  });
});

describe("a seam", () => {
  const at = async () => {
    const box = await boxOf("[data-test=table]");
    return { x: box.x + box.width / 2, y: box.y + box.height / 2 };
  };
  const points = async () =>
    Number(
      /(\d+) waypoint/.exec(
        await page.evaluate(() => document.body.innerText),
      )?.[1] ?? 0,
    );

  /** The middle of the dot that is drawn near a place. */
  async function dotNear(x: number, y: number): Promise<[number, number]> {
    const { data, channels, width } = decode(await page.screenshot());
    // Pixels that are drawn of one of the page.
    const ratio = width / 1280;
    const [from, near] = [
      [x, y].map((at) => Math.round(ratio * at)),
      22 * ratio,
    ];
    let [sx, sy, n] = [0, 0, 0];
    for (let py = from[1] - near; py < from[1] + near; py++)
      for (let px = from[0] - near; px < from[0] + near; px++) {
        const i = channels * (py * width + px);
        const off =
          Math.abs(data[i] - 194) +
          Math.abs(data[i + 1] - 24) +
          Math.abs(data[i + 2] - 91);
        if (off > 12) continue;
        sx += px;
        sy += py;
        n++;
      }
    expect(n).toBeGreaterThan(20 * ratio * ratio);
    return [sx / n / ratio, sy / n / ratio];
  }

  it("takes every click of quick hands", async () => {
    await stage("5");
    await page.keyboard.press("f");
    await pause(600);
    await shiftKey("S");
    const { x, y } = await at();
    const clicks = 8;
    for (let k = 0; k < clicks; k++) {
      const [px, py] = [
        x - 36 + 62 * Math.cos((2 * Math.PI * k) / clicks),
        y - 55 + 62 * Math.sin((2 * Math.PI * k) / clicks),
      ];
      // A hand that moves on while it clicks.
      await page.mouse.move(px, py);
      await page.mouse.down();
      await page.mouse.move(px + 3, py + 3);
      await page.mouse.up();
    }
    await page.waitForFunction(
      (wanted) => document.body.innerText.includes(`${wanted} waypoints`),
      { timeout: 30_000 },
      clicks,
    );
  });

  it("keeps its line when a click is not taken, and says why", async () => {
    const before = await points();
    const box = await boxOf("[data-test=table]");
    await page.mouse.click(box.x + 24, box.y + box.height - 130);
    await shows(page, "there is no game mesh under the pointer");
    expect(await points()).toBe(before);
  });

  it("has dots that are dragged and taken out", async () => {
    const { x, y } = await at();
    await page.keyboard.press("Escape");
    await page.mouse.click(x - 70, y - 20);
    await shows(page, "1 waypoint,");
    await page.mouse.click(x - 20, y - 80);
    await shows(page, "2 waypoints");
    const edges = async () =>
      /waypoints?, (\d+) edges?/.exec(
        await page.evaluate(() => document.body.innerText),
      )?.[1];
    const before = await edges();
    const [fx, fy] = await dotNear(x - 20, y - 80);
    await page.mouse.move(fx, fy);
    await page.mouse.down();
    await pause(400);
    await page.mouse.move(fx - 20, fy + 20, { steps: 4 });
    await page.mouse.move(fx - 60, fy + 28, { steps: 4 });
    await page.mouse.up();
    await page.waitForFunction(
      (was) =>
        /waypoints?, (\d+) edges?/.exec(document.body.innerText)?.[1] !== was,
      { timeout: 10_000 },
      before,
    );
    expect(await points()).toBe(2);
    const [gx, gy] = await dotNear(x - 70, y - 20);
    await page.keyboard.down("Control");
    await page.mouse.click(gx, gy);
    await page.keyboard.up("Control");
    await shows(page, "1 waypoint,");
    await page.keyboard.press("Escape");
    await shiftKey("P");
  });
});

describe("an island", () => {
  it("let go off the sheet waits for a word", async () => {
    await stage("5");
    const before = await answer();
    const sheet = await boxOf("[data-test=sheet]");
    const middle = [sheet.x + sheet.width / 2, sheet.y + sheet.height / 2];
    for (let k = 0; k < 14; k++) {
      const [x, y] = [
        middle[0] + 12 * k * Math.cos(k),
        middle[1] + 12 * k * Math.sin(k),
      ];
      await page.mouse.click(x, y);
      await pause(200);
      if (
        !(await page.evaluate(() =>
          /chosen|faces? ·/.test(
            document.querySelector(".chosen")?.textContent ?? "",
          ),
        ))
      )
        continue;
      await page.mouse.move(x, y);
      await page.mouse.down();
      await page.mouse.move(x, sheet.y - 300, { steps: 10 });
      await page.mouse.up();
      break;
    }
    await shows(page, "That is off the sheet");
    expect((await answer()).revision).toBe(before.revision);
    await press(page, "Leave them where they were");
    await page.waitForFunction(
      () => !document.body.innerText.includes("That is off the sheet"),
    );
    expect((await answer()).revision).toBe(before.revision);
    await page.keyboard.press("Escape");
  });
});

describe("what was typed", () => {
  it("stays when a part is locked, another tab works and the stage is left", async () => {
    await stage("1");
    await fill(page, "Triangles", "777");
    await press(page, "lock stud");
    await idle(({ document }) => document.parts[1].locked);
    expect(await valueOf("Triangles")).toBe("777");
    await stage("8");
    await stage("1");
    expect(await valueOf("Triangles")).toBe("777");
    const { revision, document } = await answer();
    const { brief } = document;
    await app.json(`assets/${id}/run`, "POST", {
      revision,
      operation: "intake/brief",
      options: { name: document.name, triangles: 850, sheet: "256" },
    });
    expect(brief.triangles).toBe(900);
    await shows(page, "changed meanwhile");
    await shows(page, "take 850");
    expect(await valueOf("Triangles")).toBe("777");
    await page.reload();
    await viewReady(page);
    expect(await valueOf("Triangles")).toBe("777");
    await press(page, "take 850 triangles");
    expect(await valueOf("Triangles")).toBe("850");
    await press(page, "unlock stud");
    await idle((found) => !found.document.parts[1].locked);
  });

  it("is never changed: what does not fit is said at the field and not taken", async () => {
    const { revision } = await answer();
    for (const [label, text, says] of [
      ["Triangles", "-5", "4 is the least"],
      ["Triangles", "99999999999", "2 000 000 is the most"],
      ["Hulls", "1.5", "a whole number is wanted"],
    ]) {
      await fill(page, label, text);
      await shows(page, says);
      expect(await valueOf(label)).toBe(text);
      await press(page, "Keep this brief");
      await pause(300);
      expect((await answer()).revision).toBe(revision);
      // The place that is wrong has the focus.
      expect(
        await page.evaluate(() =>
          document.activeElement?.getAttribute("aria-invalid"),
        ),
      ).toBe("true");
      await fill(page, label, label === "Hulls" ? "8" : "850");
    }
    await press(page, "Keep this brief");
    await pause(500);
  });
});

describe("the keyboard", () => {
  it("keeps its place when what it pressed was busy or has gone", async () => {
    await stage("1");
    await idle();
    await page.focus("[aria-label='lock stud']");
    await page.keyboard.press("Enter");
    await idle(({ document }) => document.parts[1].locked);
    await page.waitForFunction(
      () =>
        document.activeElement?.getAttribute("aria-label") === "unlock stud",
      { timeout: 5000 },
    );
    await page.keyboard.press("Enter");
    await idle(({ document }) => !document.parts[1].locked);
    await page.waitForFunction(
      () => document.activeElement?.getAttribute("aria-label") === "lock stud",
      { timeout: 5000 },
    );
  });

  it("goes from area to area", async () => {
    await blur();
    const seen: (string | null | undefined)[] = [];
    for (let k = 0; k < 6; k++) {
      await page.keyboard.press("F6");
      seen.push(await active());
    }
    expect(seen).toEqual([
      "Gauge",
      "Route",
      "Parts",
      "Table: arrow keys turn the view, Enter takes aim to choose without a mouse",
      "Bench",
      "Log",
    ]);
  });
});

describe("a command", () => {
  const find = async (words: string) => {
    await blur();
    await page.keyboard.down("Control");
    await page.keyboard.press("k");
    await page.keyboard.up("Control");
    await page.waitForSelector("input[aria-label='What to do']");
    await page.keyboard.type(words);
    await pause(100);
    return page.$$eval("#commands-found [role=option] span", (all) =>
      all.map((each) => each.textContent!.trim()),
    );
  };

  it.each([
    ["shrinkwrap", "Reduce: Cling to the source"],
    ["remesh", "Reduce: Even quads"],
    ["decimate", "Reduce: Reduce to the budget"],
    ["weld", "Survey: Mend what was found"],
    ["lod", "Reduce: Levels of detail"],
    ["ambient occlusion", "Bake: Bake maps"],
    ["retopology", "Reduce: Even quads"],
  ])("is found by the trade's word %s", async (word, name) => {
    expect(await find(word)).toContain(name);
    await page.keyboard.press("Escape");
  });

  it("opens what has to be filled in, with the first field in focus", async () => {
    await find("shrinkwrap");
    await page.keyboard.press("Enter");
    await shows(page, "Cling to the source");
    await page.waitForFunction(() =>
      document.activeElement?.closest("[data-operation='reduce/cling']"),
    );
    expect(
      await page.evaluate(
        () =>
          document.activeElement!.matches("input") ||
          document.activeElement!.getAttribute("role") === "combobox",
      ),
    ).toBe(true);
  });

  it("runs what can be run", async () => {
    const { number } = await answer();
    await find("decimate");
    await page.keyboard.press("Enter");
    const after = await idle((found) => found.number > number);
    expect(after.title).toContain("Reduce to the budget");
    // The bench that comes back from behind a panel does not do it again.
    await page.keyboard.press("y");
    await shows(page, "Revisions");
    await page.keyboard.press("y");
    await shows(page, "Other ways");
    await pause(500);
    expect((await answer()).number).toBe(after.number);
    expect((await answer()).jobs.some(({ state }) => state === "running")).toBe(
      false,
    );
  });
});

describe("revisions", () => {
  it("are compared, any two of them, also after a reload, and left truly", async () => {
    await stage("3");
    await page.keyboard.press("y");
    await page.waitForSelector(".revisions .acts");
    const titles = await page.$$eval(".revisions .title", (all) =>
      all.map((each) => each.textContent!.trim()),
    );
    const rows = await page.$$(".revisions .acts button:first-child");
    await rows[rows.length - 1].click();
    await shows(page, "Compare with it");
    await (await page.$$(".revisions .acts button:first-child"))[2].click();
    const tags = () =>
      page.$$eval(".tags .tag", (all) =>
        all.map((each) => each.textContent!.trim()),
      );
    await pause(300);
    const shown = await tags();
    expect(shown[0]).toBe(titles.at(-1));
    expect(titles).toContain(shown[1]);
    await page.reload();
    await viewReady(page);
    expect(await tags()).toEqual(shown);
    await page.keyboard.press("c");
    await pause(200);
    expect((await tags())[0]).toContain("source");
    expect(await switchedOn()).toContain("compare");
    expect(
      await page.evaluate(
        (of) =>
          (
            JSON.parse(localStorage.getItem(`arnik.view.${of}`)!) as {
              other: unknown;
            }
          ).other,
        id,
      ),
    ).toBeNull();
  });
});

describe("the ledger", () => {
  it("shows names from both ends, and can be widened", async () => {
    const name = "a long name of a float that ends in left";
    const parts = () =>
      page.$eval(`.ledger [title='${name}']`, (each) => {
        const [begin, end] = [...each.children] as HTMLElement[];
        const edge = each.closest("td")!.getBoundingClientRect().right;
        return {
          words: [begin.textContent, end.textContent],
          cut: begin.scrollWidth > begin.clientWidth,
          inside: end.getBoundingClientRect().right <= edge + 1,
        };
      });
    expect(await parts()).toEqual({
      words: [name.slice(0, -7), name.slice(-7)],
      cut: true,
      inside: true,
    });
    const edge = await boxOf("[aria-label='Width of route and parts']");
    await page.mouse.move(edge.x + 4, edge.y + 300);
    await page.mouse.down();
    await page.mouse.move(edge.x + 244, edge.y + 300, { steps: 5 });
    await page.mouse.up();
    await pause(200);
    expect(await parts()).toMatchObject({ inside: true });
    expect((await boxOf(".ledger")).width).toBeGreaterThan(450);
    const lock = await boxOf("[aria-label='lock stud']");
    expect(lock.x + lock.width).toBeLessThan(
      (await boxOf("[data-test=table]")).x,
    );
    await page.focus("[aria-label='Width of route and parts']");
    for (let k = 0; k < 16; k++) await page.keyboard.press("ArrowLeft");
  });
});

describe("quick hands", () => {
  it("undo thrice with three presses, however late the answers come", async () => {
    await stage("8");
    const { number } = await answer();
    await holding(/\/undo$/, async (release) => {
      for (let k = 0; k < 3; k++) await page.keyboard.press("u");
      await pause(400);
      expect((await answer()).number).toBe(number);
      await release();
      await idle((found) => found.number === number - 3);
    });
    expect(await page.$(".trouble")).toBeNull();
    for (let k = 0; k < 3; k++) await page.keyboard.press("r");
    await idle((found) => found.number === number);
    // At the newest revision a further step forward is no news.
    await page.keyboard.press("r");
    await pause(400);
    expect(await page.$(".trouble")).toBeNull();
  });

  it("run a thing once that is asked for twice", async () => {
    const { number } = await answer();
    await holding(/\/run$/, async (release) => {
      await page.keyboard.down("Control");
      await page.keyboard.press("Enter");
      await page.keyboard.press("Enter");
      await page.keyboard.up("Control");
      await pause(400);
      await release();
      await idle((found) => found.number === number + 1);
    });
    await pause(500);
    expect((await answer()).number).toBe(number + 1);
    expect(await page.$(".trouble")).toBeNull();
  });
});

describe("files", () => {
  it("dropped on the first page begin an asset that is named after them", async () => {
    await page.goto(app.url);
    await shows(page, "Begin an asset");
    const { length } = await app.json<unknown[]>("assets");
    await page.evaluate((text) => {
      const data = new DataTransfer();
      data.items.add(new File([text], "net weight.obj"));
      document
        .querySelector(".home")!
        .dispatchEvent(
          new DragEvent("drop", { dataTransfer: data, bubbles: true }),
        );
    }, "v 0 0 0\nv 1 0 0\nv 0 1 0\nv 0 0 1\nf 1 3 2\nf 1 2 4\nf 2 3 4\nf 1 4 3\n");
    await page.waitForFunction(() => /\/asset\/\d+$/.test(location.pathname));
    // The name stands in two pieces, so that it can be shortened in its middle.
    await page.waitForFunction(
      () => document.querySelector("h1")?.textContent === "net weight",
    );
    const all = await app.json<{ id: number; name: string }[]>("assets");
    expect(all.length).toBe(length + 1);
    for (let tries = 0; tries < 100; tries++) {
      const { document: made } = await answer(
        Math.max(...all.map((a) => a.id)),
      );
      if (made.parts.length) break;
      await pause(100);
    }
    await shows(page, "4");
  });

  it("whose sending is held up go to the asset they were sent for, and the next one stays as it is", async () => {
    const made = await Promise.all(
      ["first", "second"].map((name) =>
        app.json<{ id: number }>("assets", "POST", { name }),
      ),
    );
    const [first, second] = made.map((each) => each.id);
    await page.goto(`${app.url}/asset/${first}`);
    await shows(page, "Choose files…");
    await holding(/\/api\/uploads/, async (release) => {
      const input = (await page.waitForSelector(
        "input[aria-label='Mesh files or a project']",
      )) as ElementHandle<HTMLInputElement>;
      await input.uploadFile(file);
      await shows(page, "Sending");
      await page.click(".mark");
      await shows(page, "Begin an asset");
      // The list comes after the page.
      await page.waitForSelector(`a[href='/asset/${second}']`);
      await page.click(`a[href='/asset/${second}']`);
      await shows(page, "Choose files…");
      await shows(page, "first");
      await release();
      for (let tries = 0; tries < 300; tries++) {
        if ((await answer(first)).document.parts.length) break;
        await pause(100);
      }
    });
    expect((await answer(first)).document.parts.length).toBe(2);
    expect((await answer(second)).document.parts).toEqual([]);
    await shows(page, "no parts yet");
    expect(page.url()).toContain(`/asset/${second}`);
  });
});

describe("the page", () => {
  it("has left no error", () => expect(errors).toEqual([]));
});
