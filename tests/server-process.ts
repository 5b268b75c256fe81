import { spawn } from "node:child_process";
import type { ChildProcess } from "node:child_process";
import { mkdtempSync, rmSync } from "node:fs";
import { createServer } from "node:net";
import { tmpdir } from "node:os";
import { join } from "node:path";

export const pause = (ms: number) =>
  new Promise<void>((resolve) => setTimeout(resolve, ms));

/** The built server on a free port with a data folder of its own. */
export class ServerProcess {
  port = 0;
  /** What it said on its error output. */
  said = "";
  protected process: ChildProcess | null = null;

  constructor(readonly data = mkdtempSync(join(tmpdir(), "arnik-test-"))) {}

  get url(): string {
    return `http://127.0.0.1:${this.port}`;
  }

  get pid(): number {
    return this.process?.pid ?? 0;
  }

  /** @throws Error with what the server said, where it ends instead of listening */
  async start(port?: number): Promise<void> {
    this.port = port ?? (await freePort());
    const child = spawn(process.execPath, ["scripts/serve.mjs"], {
      env: {
        ...process.env,
        ARNIK_ROOT: process.cwd(),
        ARNIK_DATA: this.data,
        PORT: String(this.port),
      },
      stdio: ["ignore", "pipe", "pipe"],
    });
    this.process = child;
    child.stderr.on("data", (text: Buffer) => (this.said += text.toString()));
    await new Promise<void>((resolve, reject) => {
      child.stdout.on("data", (text: Buffer) => {
        if (text.toString().includes("Arnik: http")) resolve();
      });
      child.once("exit", (code) =>
        reject(new Error(`the server ended with ${code}: ${this.said}`)),
      );
    });
  }

  /** Ends the server as a power cut would, or as somebody who asks it to. */
  async kill(signal: NodeJS.Signals = "SIGKILL"): Promise<void> {
    const { process: running } = this;
    if (!running || running.exitCode !== null || running.signalCode) return;
    const gone = new Promise((resolve) => running.once("exit", resolve));
    running.kill(signal);
    await gone;
    this.process = null;
  }

  async remove(): Promise<void> {
    await this.kill();
    rmSync(this.data, { recursive: true, force: true });
  }

  /** The status and the JSON of an answer. */
  async ask<T = Record<string, unknown>>(
    path: string,
    method = "GET",
    body?: unknown,
  ): Promise<{ status: number; value: T }> {
    const answer = await fetch(`${this.url}/api/${path}`, {
      method,
      headers: body ? { "Content-Type": "application/json" } : {},
      body: body ? JSON.stringify(body) : undefined,
    });
    return { status: answer.status, value: (await answer.json()) as T };
  }

  async json<T>(path: string, method = "GET", body?: unknown): Promise<T> {
    return (await this.ask<T>(path, method, body)).value;
  }

  /** Sends the bytes of a file; the id it waits under. */
  async upload(bytes: Uint8Array | string): Promise<string> {
    const sent = await fetch(`${this.url}/api/uploads`, {
      method: "POST",
      body: bytes as BodyInit,
    });
    if (!sent.ok) throw new Error(`the upload was answered ${sent.status}`);
    return ((await sent.json()) as { id: string }).id;
  }
}

function freePort(): Promise<number> {
  return new Promise((resolve) => {
    const probe = createServer().listen(0, "127.0.0.1", () => {
      const address = probe.address();
      probe.close(() =>
        resolve(typeof address === "object" ? address!.port : 0),
      );
    });
  });
}
