import { request } from "node:http";
import { mkdtempSync, readFileSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { afterAll, beforeAll, describe, expect, it } from "vitest";
import {
  App,
  meshOnDisk,
  openBrowser,
  openPage,
  pause,
  press,
  shows,
  viewReady,
} from "./app";

interface Job {
  id: number;
  state: string;
  error: string | null;
  progress: { share: number; stage: string | null } | null;
}
interface Answer {
  id: number;
  revision: number;
  number: number;
  standing: { stage: string; state: string }[];
  jobs: Job[];
  document: {
    maps: unknown[];
    parts: { name: string; game: { triangles: number } | null }[];
  };
  message?: string;
}

const app = new App();
let id = 0;
const asset = () => app.json<Answer>(`assets/${id}`);
const run = async (operation: string, options: object, revision?: number) =>
  app.json<{ asset: Answer; job: Job; data?: { message: string } }>(
    `assets/${id}/run`,
    "POST",
    { operation, options, revision: revision ?? (await asset()).revision },
  );

async function until(check: (job: Job) => boolean): Promise<Job> {
  for (let tries = 0; tries < 1500; tries++) {
    const [job] = (await asset()).jobs;
    if (job && check(job)) return job;
    await pause(40);
  }
  throw new Error("waited in vain");
}
const ended = (job: Job) => job.state !== "queued" && job.state !== "running";
const bakeLong = { rays: 256, size: 2048 };

beforeAll(async () => {
  await app.start();
  ({ id } = await app.json<Answer>("assets", "POST", { name: "Trouble" }));
  const path = await meshOnDisk(
    mkdtempSync(join(tmpdir(), "arnik-file-")),
    "buoy.glb",
  );
  const sent = await fetch(`${app.url}/api/uploads`, {
    method: "POST",
    body: readFileSync(path),
  });
  const { id: upload } = (await sent.json()) as { id: string };
  await app.json(`assets/${id}/run`, "POST", {
    operation: "intake/bring-in",
    options: {},
    revision: (await asset()).revision,
    uploads: [{ id: upload, name: "buoy.glb" }],
  });
  await until(ended);
  for (const [operation, options] of [
    ["reduce/to-budget", { triangles: 500 }],
    ["unwrap/unwrap", { size: 256 }],
  ] as const) {
    await run(operation, options);
    await until(ended);
  }
});
afterAll(() => app.remove());

describe("jobs", () => {
  it("stop within a second when cancelled, and change nothing", async () => {
    const { revision } = await asset();
    await run("bake/maps", bakeLong);
    await until(
      (job) => job.state === "running" && (job.progress?.share ?? 0) > 0.06,
    );
    const { jobs } = await asset();
    await app.json(`jobs/${jobs[0].id}/cancel`, "POST", {});
    const job = await until(ended);
    expect(job.state).toBe("cancelled");
    expect((await asset()).revision).toBe(revision);
  });

  it("are seen by a second tab and survive a reload of the page", async () => {
    await run("bake/maps", bakeLong);
    const browser = await openBrowser();
    try {
      const errors: string[] = [];
      for (let tab = 0; tab < 2; tab++) {
        const page = await openPage(browser, errors);
        await page.goto(`${app.url}/asset/${id}`);
        await shows(page, "Bake maps");
        await page.reload();
        await shows(page, "casting rays");
        if (tab === 1) await press(page, "Cancel");
      }
      expect((await until(ended)).state).toBe("cancelled");
      expect(errors).toEqual([]);
    } finally {
      await browser.close();
    }
  });

  it("of the whole route keep each stage that was made, whether cancelled or killed after it", async () => {
    const { number, revision } = await asset();
    await app.json(`assets/${id}/route`, "POST", { revision });
    const baking = await until((job) => job.progress?.stage === "bake");
    // Survey, Edges and what that made stale of Unwrap are stored by now, and the end is far.
    expect(baking.progress!.share).toBeLessThan(0.9);
    await app.json(`jobs/${baking.id}/cancel`, "POST", {});
    expect((await until(ended)).state).toBe("cancelled");
    const after = await asset();
    expect(after.number).toBe(number + 3);
    const stateOf = (wanted: string) =>
      after.standing.find(({ stage }) => stage === wanted)!.state;
    expect(["survey", "edges", "unwrap", "bake"].map(stateOf)).toEqual([
      "current",
      "current",
      "current",
      "empty",
    ]);
    await app.json(`assets/${id}/route`, "POST", { revision: after.revision });
    await until((job) => job.progress?.stage === "bake");
    await app.kill();
    await app.start();
    expect((await until(ended)).state).toBe("interrupted");
    expect((await asset()).revision).toBe(after.revision);
    // What follows begins where this began.
    for (let k = 0; k < 3; k++)
      await app.json(`assets/${id}/undo`, "POST", {
        revision: (await asset()).revision,
      });
    expect((await asset()).revision).toBe(revision);
  });

  it("refuse changes to the asset they work on", async () => {
    await run("bake/maps", bakeLong);
    const refused = await run("intake/brief", { triangles: 77 });
    expect(refused.data?.message).toMatch(/a job is under way/);
    await app.json(`jobs/${(await asset()).jobs[0].id}/cancel`, "POST", {});
    await until(ended);
  });

  it("are interrupted by a kill, leave the asset whole, and run again", async () => {
    const before = await asset();
    await run("bake/maps", bakeLong);
    await until((job) => (job.progress?.share ?? 0) > 0.06);
    await app.kill();
    await app.start();
    const after = await asset();
    expect(after.revision).toBe(before.revision);
    expect(after.document).toEqual(before.document);
    expect(after.jobs[0]).toMatchObject({ state: "interrupted" });
    expect(after.jobs[0].error).toMatch(/can be run again/);
    await app.json(`jobs/${after.jobs[0].id}/again`, "POST", {});
    await until(
      (job) => job.id !== after.jobs[0].id && (job.progress?.share ?? 0) > 0.06,
    );
    await app.json(`jobs/${(await asset()).jobs[0].id}/cancel`, "POST", {});
    await until(ended);
    await run("bake/maps", { rays: 4, size: 128 });
    expect((await until(ended)).state).toBe("done");
    expect((await asset()).document.maps).toHaveLength(3);
  });
});

describe("in the page", () => {
  it("an answer that takes long is told, can be stopped, and nothing is changed", async () => {
    const browser = await openBrowser();
    try {
      const errors: string[] = [];
      const page = await openPage(browser, errors);
      await page.goto(`${app.url}/asset/${id}`);
      await viewReady(page);
      const before = await asset();
      page.on("request", (call) => {
        // The answer never comes: the server is slow.
        if (!call.url().endsWith("/run"))
          // One that came before any was looked at goes on by itself.
          void call.continue().catch(() => {});
      });
      await page.setRequestInterception(true);
      await page.keyboard.press("4");
      await press(page, "Hard above an angle");
      await shows(page, "Hard above an angle");
      await press(page, "Cancel");
      await shows(page, "Stopped; nothing was changed");
      expect((await asset()).revision).toBe(before.revision);
      expect(errors).toEqual([]);
    } finally {
      await browser.close();
    }
  });

  it("deleting an asset says that its job is cancelled with it", async () => {
    const made = await app.json<Answer>("assets", "POST", { name: "Doomed" });
    const upload = await app.upload("v 0 0 0\nv 1 0 0\nv 0 1 0\nf 1 2 3\n");
    await run("bake/maps", bakeLong);
    await app.json(`assets/${made.id}/run`, "POST", {
      operation: "intake/bring-in",
      options: {},
      revision: made.revision,
      uploads: [{ id: upload, name: "a.obj" }],
    });
    const browser = await openBrowser();
    try {
      const page = await openPage(browser, []);
      await page.goto(app.url);
      await shows(page, "Doomed");
      await page.evaluate(() => {
        const card = [...document.querySelectorAll("li")].find((each) =>
          each.textContent!.includes("Doomed"),
        )!;
        card.querySelector<HTMLButtonElement>(".drop")!.click();
      });
      await press(page, "Cancel its job, delete it and all its revisions?");
      await page.waitForFunction(
        () => !document.body.innerText.includes("Doomed"),
        { timeout: 5000 },
      );
      expect((await app.ask(`assets/${made.id}`)).status).toBe(404);
    } finally {
      await browser.close();
    }
    await app.json(`jobs/${(await asset()).jobs[0].id}/cancel`, "POST", {});
    await until(ended);
  });
});

describe("two tabs on one asset", () => {
  it("tell the later writer, and lose nothing", async () => {
    const { revision } = await asset();
    await run("intake/brief", { triangles: 400 }, revision);
    const late = await run("intake/brief", { triangles: 900 }, revision);
    expect(late.data?.message).toMatch(/changed elsewhere/);
    expect((await asset()).revision).toBeGreaterThan(revision);
  });
});

describe("bad calls", () => {
  const raw = (
    headers: Record<string, string>,
    method = "GET",
    path = "/api/assets",
  ) =>
    new Promise<number>((resolve, reject) => {
      const call = request(
        { host: "127.0.0.1", port: app.port, path, method, headers },
        (answer) => {
          answer.resume();
          resolve(answer.statusCode ?? 0);
        },
      );
      call.on("error", reject);
      call.end();
    });

  it("from foreign hosts and pages are turned away", async () => {
    expect(await raw({ Host: "evil.example" })).toBe(421);
    expect(await raw({ Host: `127.0.0.1:${app.port}` })).toBe(200);
    expect(await raw({ Origin: "http://evil.example" }, "POST")).toBe(403);
    expect(await raw({ "Sec-Fetch-Site": "cross-site" }, "POST")).toBe(403);
  });

  it("with files over the limit are refused before they are read", async () => {
    expect(
      await raw(
        { "Content-Length": String(600 * 1024 * 1024) },
        "POST",
        "/api/uploads",
      ).catch(() => 413),
    ).toBe(413);
  });

  it("get clear answers: unknown assets, streams, operations, options and uploads", async () => {
    const status = async (path: string, body?: unknown) =>
      (
        await fetch(
          `${app.url}/api/${path}`,
          body === undefined
            ? {}
            : {
                method: "POST",
                body: typeof body === "string" ? body : JSON.stringify(body),
              },
        )
      ).status;
    const { revision } = await asset();
    expect(await status("assets/999")).toBe(404);
    expect(await status("assets/x")).toBe(404);
    expect(await status("streams/abc")).toBe(404);
    expect(await status(`streams/${"0".repeat(64)}`)).toBe(404);
    expect(
      await status(`assets/${id}/run`, {
        operation: "no/thing",
        options: {},
        revision,
      }),
    ).toBe(422);
    expect(
      await status(`assets/${id}/run`, {
        operation: "reduce/to-budget",
        options: { triangles: -5 },
        revision,
      }),
    ).toBe(400);
    expect(
      await status(`assets/${id}/run`, {
        operation: "reduce/to-budget",
        options: {},
      }),
    ).toBe(400);
    expect(await status(`assets/${id}/run`, "{")).toBe(400);
    expect(
      await status(`assets/${id}/run`, {
        operation: "intake/bring-in",
        options: {},
        revision,
        uploads: [{ id: "../../etc/passwd", name: "a.obj" }],
      }),
    ).toBe(400);
    expect(
      await status(`assets/${id}/run`, {
        operation: "intake/bring-in",
        options: {},
        revision,
        uploads: [{ id: "0".repeat(32), name: "a.obj" }],
      }),
    ).toBe(422);
  });

  it("with a broken mesh fail as a job that names the place, and store nothing", async () => {
    const { revision } = await asset();
    const sent = await fetch(`${app.url}/api/uploads`, {
      method: "POST",
      body: "v 0 0 0\nf 1 2 3\n",
    });
    const upload = (await sent.json()) as { id: string };
    await app.json(`assets/${id}/run`, "POST", {
      operation: "intake/bring-in",
      options: {},
      revision,
      uploads: [{ id: upload.id, name: "../broken.obj" }],
    });
    const job = await until(ended);
    expect(job).toMatchObject({
      state: "failed",
      error: expect.stringMatching(
        /^broken\.obj: line 2: vertex 2 is out of range/,
      ) as string,
    });
    expect((await asset()).revision).toBe(revision);
  });
});
