import { afterAll, beforeAll, expect, it } from "vitest";
import { boundsOf } from "../../core/space/bounds";
import { meshOnDisk, pause, pixels, press, shows, unfold } from "./app";
import { Session } from "./session";

/** What an artist does to hulls by hand, by mouse and keyboard, and how they are judged. */
const session = new Session();

const hulls = async () =>
  (await session.answer()).document.parts.flatMap((part) => part.hulls);
async function positions(i = 0): Promise<Float32Array> {
  const [{ hash }] = (await hulls()).slice(i, i + 1).map((h) => h.positions);
  const answer = await fetch(`${session.app.url}/api/streams/${hash}`);
  return new Float32Array(await answer.arrayBuffer());
}
const sizeOf = (points: Float32Array) => {
  const { min, max } = boundsOf(points);
  return [0, 1, 2].map((k) => max[k] - min[k]);
};
async function middle(): Promise<[number, number]> {
  const table = await session.page.$("[data-test=table]");
  const box = (await table!.boundingBox())!;
  return [box.x + box.width / 2, box.y + box.height / 2];
}
/** Where the pointer lies over a handle, sought about the middle of the table. */
async function handle(): Promise<[number, number]> {
  const { page } = session;
  const [x, y] = await middle();
  await page.mouse.move(x - 200, y - 200);
  await page.waitForFunction(() => !document.querySelector("canvas.grip"));
  for (const row of [0, -1, 1, -2, 2, -3, 3, -4, 4])
    for (let step = -12; step <= 8; step++) {
      const at: [number, number] = [x + 12 * step, y + 36 * row];
      await page.mouse.move(...at);
      await pause(40);
      if (await page.$("canvas.grip")) return at;
    }
  throw new Error("there is no handle about the middle");
}
async function drag(
  [x, y]: readonly [number, number],
  dx: number,
  dy: number,
): Promise<void> {
  const { mouse } = session.page;
  await mouse.move(x, y);
  await mouse.down();
  // The view is asked first whether a handle lies there.
  await pause(200);
  for (let i = 1; i <= 4; i++) {
    await mouse.move(x + (dx * i) / 4, y + (dy * i) / 4);
    await pause(60);
  }
  await mouse.up();
}
async function choose(name: string): Promise<void> {
  const button = await session.page.waitForSelector(
    `.hand li ::-p-text(${name})`,
  );
  await button!.click();
}
/** Does something, and waits for what comes of it. */
async function changes(act: () => Promise<void>) {
  const { revision } = await session.answer();
  await act();
  const found = await session.idle((answer) => answer.revision !== revision);
  await pause(200);
  return found;
}
const chosen = () =>
  session.page.$$eval(".hand li button[aria-pressed=true] .name", (each) =>
    each.map((name) => name.textContent),
  );

beforeAll(async () => {
  await session.open();
  await session.begin("ball");
  await session.bringIn(await meshOnDisk(session.app.data, "ball.obj"));
  await session.run("intake/brief", { triangles: 300, sheet: "256" });
  await session.run("reduce/to-budget", {});
  await session.run("collide/hulls", { kind: "box" });
  await session.page.reload();
  await session.idle();
  await session.stage("8");
  await pause(600);
}, 120_000);
afterAll(() => session.close());

it("a hull is chosen by a click, and let go by Escape", async () => {
  await session.page.mouse.click(...(await middle()));
  await session.page.waitForSelector(".hand li button[aria-pressed=true]");
  expect(await chosen()).toHaveLength(1);
  await session.page.keyboard.press("Escape");
  await pause(200);
  expect(await chosen()).toEqual([]);
});

it("is moved by its handles, and the move can be undone", async () => {
  await choose("ball_hull_1");
  const before = await positions();
  const moved = await changes(async () => drag(await handle(), 50, -40));
  expect(moved.title).toMatch(/^Move, turn or size/);
  const after = await positions();
  expect(after).not.toEqual(before);
  sizeOf(after).forEach((size, k) =>
    expect(size).toBeCloseTo(sizeOf(before)[k], 5),
  );
  // In steps of 5 mm from the origin.
  const { min, max } = boundsOf(after);
  for (let k = 0; k < 3; k++)
    if (Math.abs(after[k] - before[k]) > 1e-6) {
      const steps = (min[k] + max[k]) / 2 / 0.005;
      expect(steps).toBeCloseTo(Math.round(steps), 2);
    }
  expect(await chosen()).toEqual(["ball_hull_1"]);
  expect((await hulls())[0].byHand).toBe(true);
  await session.blur();
  await changes(() => session.page.keyboard.press("u"));
  expect(await positions()).toEqual(before);
});

it("one side is moved by its knob, and it is turned by a ring", async () => {
  await session.blur();
  await session.chord("S", "Shift");
  const before = sizeOf(await positions());
  await changes(async () => drag(await handle(), -30, 0));
  const sized = sizeOf(await positions());
  const others = sized.filter(
    (size, k) => Math.abs(size - before[k]) < 1e-5,
  ).length;
  expect(others).toBe(2);
  await session.blur();
  await session.chord("T", "Shift");
  // Whatever way the ring lies that is found: in no steps.
  await session.chord("K", "Shift");
  await changes(async () => drag(await handle(), 15, 45));
  await session.chord("K", "Shift");
  // What is no longer along the axes takes more room between them.
  const turned = sizeOf(await positions());
  expect(turned.reduce((a, b) => a + b)).toBeGreaterThan(
    1.001 * sized.reduce((a, b) => a + b),
  );
});

it("is cut along a line that is drawn over it, and merged again", async () => {
  await session.blur();
  await session.chord("C", "Shift");
  await shows(session.page, "Draw a line over the chosen hulls");
  const [x, y] = await middle();
  await changes(() => drag([x - 60, y - 190], 0, 380));
  expect(await hulls()).toHaveLength(3);
  await choose("ball_hull_1");
  await session.page.keyboard.down("Shift");
  await choose("ball_hull_2");
  await session.page.keyboard.up("Shift");
  await shows(session.page, "2 hulls chosen");
  const merged = await changes(() => press(session.page, "Merge"));
  expect(await hulls()).toHaveLength(2);
  expect(merged.document.results.collide?.headline).toBe("2 hulls");
});

it("is doubled, mirrored and taken away by buttons", async () => {
  await choose("stud_hull_1");
  await changes(() => press(session.page, "Duplicate"));
  expect(await chosen()).toEqual(["stud_hull_2"]);
  await changes(() => press(session.page, "Mirror"));
  expect(await hulls()).toHaveLength(4);
  await changes(() => press(session.page, "Remove"));
  expect(await hulls()).toHaveLength(3);
  expect(await chosen()).toEqual([]);
});

it("a shape is placed where somebody clicks, and chosen", async () => {
  await press(session.page, "sphere");
  await shows(session.page, "Click where the sphere goes.");
  await changes(async () => session.page.mouse.click(...(await middle())));
  const made = (await hulls()).filter(({ kind }) => kind === "sphere");
  expect(made).toHaveLength(1);
  expect(await chosen()).toEqual([made[0].name]);
});

it("is given a contact material, and another shape by the form", async () => {
  await (await session.page.waitForSelector(
    ".hand .contact [role=combobox]",
  ))!.click();
  const rope = await session.page.waitForSelector(
    "[role=option][aria-label=rope]",
  );
  await changes(() => rope!.click());
  expect((await hulls()).map(({ contact }) => contact)).toContain("rope");
  await unfold(session.page, "Make hulls another shape");
  const found = await session.idle(({ document }) =>
    document.parts.some(({ hulls: each }) =>
      each.some(({ kind, contact }) => kind === "box" && contact === "rope"),
    ),
  );
  expect(found.standing.find(({ stage }) => stage === "collide")?.state).toBe(
    "current",
  );
});

it("making hulls leaves what was worked by hand, and says so", async () => {
  const before = await hulls();
  await changes(() => press(session.page, "Make hulls"));
  expect((await hulls()).map(({ name }) => name)).toEqual(
    before.map(({ name }) => name),
  );
  await shows(session.page, "Worked by hand, and left alone");
  await changes(() => press(session.page, "Make anew"));
  expect((await hulls()).some(({ byHand }) => byHand)).toBe(false);
});

it("what stands off shows in colours with their scale", async () => {
  const teal = () => pixels(session.page, (r, g, b) => b > r + 40 && g > r);
  const before = await teal();
  await press(session.page, "stand-off");
  await shows(session.page, "stands off");
  await pause(1500);
  expect(await teal()).not.toBe(before);
  await press(session.page, "stand-off");
});

it("the drop test is played on the table, with its figures, and put back", async () => {
  const camera = () =>
    session.page.evaluate(() => document.body.innerText.includes("Again"));
  expect(await camera()).toBe(false);
  await press(session.page, "Let go");
  await shows(session.page, "Rests after", 60_000);
  await shows(session.page, "Deepest in the ground");
  await press(session.page, "Put it back");
  await pause(300);
  expect(await camera()).toBe(false);
});

it("logs no error in the page", () => {
  expect(session.errors).toEqual([]);
});
