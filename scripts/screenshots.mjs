// Takes the pictures of docs/screenshots from the demo data, 1280 × 800: all, or those named on the command line.
import { spawn, spawnSync } from "node:child_process";
import { existsSync, mkdirSync, mkdtempSync, rmSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { fileURLToPath } from "node:url";
import { strFromU8, unzipSync } from "fflate";
import { launchBrowser } from "./browser.mjs";
import { setup } from "./setup.mjs";

const root = fileURLToPath(new URL("..", import.meta.url));
await setup();
mkdirSync(join(root, "docs/screenshots"), { recursive: true });
const kept = process.env.ARNIK_DATA && existsSync(process.env.ARNIK_DATA);
const data = kept
  ? process.env.ARNIK_DATA
  : mkdtempSync(join(tmpdir(), "arnik-shots-"));
const env = {
  ...process.env,
  ARNIK_ROOT: root,
  ARNIK_DATA: data,
  PORT: "3458",
};
spawnSync(process.execPath, ["dist/make-demo.mjs"], {
  cwd: root,
  env,
  stdio: "inherit",
});
const server = spawn(process.execPath, ["scripts/serve.mjs"], {
  cwd: root,
  env,
  stdio: "ignore",
});
const browser = await launchBrowser();
const pause = (ms) => new Promise((resolve) => setTimeout(resolve, ms));
const base = "http://127.0.0.1:3458";
const named = process.argv.slice(2);

const wanted = (name) => !named.length || named.includes(name);

/** Runs an operation on an asset and gives its job when it is done. */
async function made(asset, operation, options = {}) {
  const url = `${base}/api/assets/${asset}`;
  const json = async (address, more) => (await fetch(address, more)).json();
  const { revision } = await json(url);
  const { job } = await json(`${url}/run`, {
    method: "POST",
    headers: { "content-type": "application/json", origin: base },
    body: JSON.stringify({ operation, revision, options }),
  });
  for (;;) {
    const { state } = await json(`${base}/api/jobs/${job.id}`);
    if (state === "done") return job;
    if (state === "failed") throw new Error(`${operation} failed`);
    await pause(300);
  }
}

/** The page that is handed over with a delivery, and the delivery in the yard. */
async function deliveryShots(asset) {
  if (!wanted("report") && !wanted("yard")) return;
  await made(asset, "reduce/levels", { levels: "2000, 600" });
  if (wanted("yard"))
    await yardShot(await made(asset, "ship/archive", { pivot: "bottom" }));
  if (!wanted("report")) return;
  const job = await shippedByPage(asset);
  const archive = await fetch(`${base}/api/jobs/${job.id}/file`);
  const entries = unzipSync(new Uint8Array(await archive.arrayBuffer()));
  const page = await browser.newPage();
  await page.setContent(strFromU8(entries["report.html"]));
  await page.screenshot({ path: join(root, "docs/screenshots/report.png") });
  await page.close();
  process.stdout.write("report\n");
}

/** Ships an asset by its page, whose view takes the pictures, and gives the job when it is done. */
async function shippedByPage(asset) {
  const newest = async () =>
    (await (await fetch(`${base}/api/assets/${asset}`)).json()).jobs[0];
  const before = (await newest())?.id;
  const page = await browser.newPage();
  await page.goto(`${base}/asset/${asset}`);
  await page.waitForSelector("canvas[data-ready=true]", { timeout: 120_000 });
  await page.keyboard.press("9");
  await pause(1500);
  await page.click("form .go");
  for (;;) {
    await pause(500);
    const job = await newest();
    if (!job || job.id === before || job.state !== "done") continue;
    await page.close();
    return job;
  }
}

/** A delivery among its copies, as an engine would draw it. */
async function yardShot(job) {
  const page = await browser.newPage();
  await page.goto(base);
  await page.evaluate(() =>
    localStorage.setItem(
      "arnik.yard",
      JSON.stringify({ copies: 25, light: "day" }),
    ),
  );
  await page.goto(`${base}/yard?job=${job.id}`);
  await page.waitForSelector("[data-drawn]", { timeout: 60_000 });
  await pause(4000);
  await page.screenshot({ path: join(root, "docs/screenshots/yard.png") });
  await page.close();
  process.stdout.write("yard\n");
}

/** Opens an asset with a view as it would be remembered. */
async function shot(name, asset, view, then) {
  if (!wanted(name)) return;
  const page = await browser.newPage();
  await page.goto(base);
  await page.evaluate(
    (id, state) =>
      localStorage.setItem(`arnik.view.${id}`, JSON.stringify(state)),
    asset,
    view,
  );
  await page.evaluate(
    (dark) => localStorage.setItem("arnik.dark", dark ? "1" : "0"),
    view.dark ?? false,
  );
  await page.goto(`${base}/asset/${asset}`);
  await page.waitForSelector("canvas[data-ready=true]", { timeout: 120_000 });
  await then?.(page);
  // The first frame waits for shaders, which take seconds without a graphics card.
  await pause(9000);
  await page.screenshot({
    path: join(root, "docs/screenshots", `${name}.png`),
  });
  await page.close();
  process.stdout.write(`${name}\n`);
}

try {
  const page = await browser.newPage();
  for (let tries = 0; tries < 100; tries++) {
    if (
      await page.goto(base).then(
        () => true,
        () => false,
      )
    )
      break;
    await pause(200);
  }
  await page.waitForSelector(".card img");
  await pause(1500);
  await page.screenshot({ path: join(root, "docs/screenshots/home.png") });
  await page.close();
  const [lamp, bollard, horn, buoy, crate, net] = [1, 2, 3, 4, 5, 6];
  const heading = (words) => async (page) => {
    await page.evaluate((wanted) => {
      const bench = document.querySelector(".bench");
      const found = [...bench.querySelectorAll("h2")].find((each) =>
        each.textContent.includes(wanted),
      );
      bench.scrollTop = found.offsetTop - bench.offsetTop - 12;
    }, words);
  };
  await shot("intake", horn, { stage: "intake", show: "source" });
  await shot(
    "survey",
    lamp,
    { stage: "survey", show: "source", wire: false },
    heading("Findings"),
  );
  await shot(
    "unseen",
    buoy,
    { stage: "survey", show: "source", wire: false, overlay: "seen" },
    heading("Unseen"),
  );
  await shot("repeats", crate, {
    stage: "survey",
    show: "compare",
    wire: true,
    overlay: "polygons",
  });
  await shot(
    "history",
    bollard,
    { stage: "reduce", show: "compare", wire: false },
    async (page) => {
      await page.keyboard.press("y");
      await page.waitForSelector(".revisions .acts");
      const compare = await page.$$(".revisions .acts button:first-child");
      await compare[compare.length - 1].click();
    },
  );
  await shot("reduce", bollard, {
    stage: "reduce",
    show: "compare",
    wire: true,
  });
  await shot(
    "judge",
    lamp,
    { stage: "reduce", show: "game", wire: false, overlay: "distance" },
    heading("Judge"),
  );
  await shot(
    "shapes",
    crate,
    {
      stage: "reduce",
      show: "compare",
      wire: true,
      opened: ["reduce/stand-in"],
    },
    async (page) => {
      await page.$eval("#reduce-stand-in-sides", (input) =>
        input.closest("form").querySelector(".go").click(),
      );
      await page.waitForSelector(".shapes li", { timeout: 120_000 });
      await page.waitForSelector("canvas[data-ready=true]");
      await heading("Other ways")(page);
      await page.$eval(".shapes", (list) => list.scrollIntoView());
    },
  );
  await shot("edges", bollard, {
    stage: "edges",
    show: "game",
    wire: true,
    hard: true,
  });
  await shot("unwrap", lamp, { stage: "unwrap" });
  await shot(
    "seams",
    lamp,
    { stage: "unwrap", checker: false, wire: true, light: 20 },
    async (page) => {
      await heading("Seams")(page);
      await page.evaluate(() =>
        [...document.querySelectorAll("button")]
          .find((each) => each.textContent.trim() === "Trace")
          .click(),
      );
      await pause(1500);
      for (const [x, y] of [
        [372, 500],
        [400, 478],
        [436, 500],
      ]) {
        await page.mouse.click(x, y);
        await pause(900);
      }
    },
  );
  for (const stage of ["bake", "finish"]) await shot(stage, lamp, { stage });
  if (wanted("collide")) await made(lamp, "collide/drop");
  await shot("collide", lamp, { stage: "collide" }, (page) =>
    page.evaluate(() =>
      [...document.querySelectorAll(".hand li button")]
        .find((each) => each.textContent.includes("glass"))
        .click(),
    ),
  );
  if (wanted("ship")) await made(net, "ship/archive");
  await shot("ship", net, { stage: "ship" });
  await shot("dark", bollard, { stage: "unwrap", dark: true });
  await deliveryShots(lamp);
} finally {
  await browser.close();
  server.kill("SIGKILL");
  if (!kept) rmSync(data, { recursive: true, force: true });
}
