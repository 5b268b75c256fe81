import { execFileSync } from "node:child_process";
import { createHash } from "node:crypto";
import {
  closeSync,
  mkdtempSync,
  openSync,
  rmSync,
  statfsSync,
  writeSync,
} from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { ServerProcess } from "../server-process";

/** Megabytes of the small disk that the data folder lies on. */
const DISK = 160;
/** Longest that an answer may take before it counts as a hang, milliseconds. */
const HANG = 45_000;

export interface AssetAnswer {
  id: number;
  revision: number;
  document: {
    name: string;
    brief: { triangles: number };
    parts: unknown[];
  };
  jobs: { id: number; state: string }[];
}

export interface Figures {
  answers: number;
  byStatus: Record<number, number>;
  kills: number;
  fillings: number;
  slowestCancelMs: number;
  acknowledged: number;
  jobs: number;
  revisionsOpened: number;
}

/** What went wrong, in words, with the figure it counts in. */
export interface Wrong {
  what: "damaged" | "missing" | "lost" | "hang" | "answer" | "left over";
  how: string;
}

/** A server on a small disk, several clients, and everything that was seen of them. */
export class Rig {
  readonly server: ServerProcess;
  readonly wrong: Wrong[] = [];
  readonly figures: Figures = {
    answers: 0,
    byStatus: {},
    kills: 0,
    fillings: 0,
    slowestCancelMs: 0,
    acknowledged: 0,
    jobs: 0,
    revisionsOpened: 0,
  };
  /** A disk of its own needs the rights to mount one; without them it is never filled. */
  readonly small: boolean;
  private filled = false;
  /** Raised by kills and by a full disk: what was asked before or during them may be answered badly. */
  disturbed = 0;
  private lines: Promise<void>[] = [];
  /** Fulfilled while the server runs: clients wait for it as a page does. */
  private up: Promise<void> = Promise.resolve();

  private constructor() {
    const folder = mkdtempSync(join(tmpdir(), "arnik-torture-"));
    this.small = mounted(folder);
    this.server = new ServerProcess(folder);
  }

  static async start(clients: number): Promise<Rig> {
    const rig = new Rig();
    rig.lines = Array.from({ length: clients }, () => Promise.resolve());
    await rig.server.start();
    return rig;
  }

  /** Has a client do something after what it is doing, without waiting for it. */
  act(client: number, work: () => Promise<void>): void {
    const at = client % this.lines.length;
    this.lines[at] = this.lines[at].then(work).catch((error: unknown) => {
      this.fault(
        "answer",
        error instanceof Error ? error.message : String(error),
      );
    });
  }

  /** Waits for all clients. */
  async settle(): Promise<void> {
    await Promise.all(this.lines);
  }

  /** What a request begins under. */
  began(): { disturbed: number; full: boolean } {
    return { disturbed: this.disturbed, full: this.filled };
  }

  /** Whether an answer says that the disk is full, as it was, or may have been, since the request began. */
  isFull(status: number, began: ReturnType<Rig["began"]>): boolean {
    return status === 507 && (began.full || this.disturbed !== began.disturbed);
  }

  fault(what: Wrong["what"], how: string): void {
    this.wrong.push({ what, how });
  }

  /**
   * An answer, or null where the server was killed before it came.
   * @param allowed statuses besides 2xx that are right answers to this
   */
  async ask<T>(
    path: string,
    method = "GET",
    body?: unknown,
    allowed: readonly number[] = [404, 409],
  ): Promise<{ status: number; value: T } | null> {
    await this.up;
    const began = this.began();
    try {
      const answer = await fetch(`${this.server.url}/api/${path}`, {
        method,
        headers:
          body === undefined ? {} : { "Content-Type": "application/json" },
        body:
          body instanceof Uint8Array
            ? (body as BodyInit)
            : body === undefined
              ? undefined
              : JSON.stringify(body),
        signal: AbortSignal.timeout(HANG),
      });
      const { status } = answer;
      const value = (await answer.json().catch(() => null)) as T;
      this.figures.answers++;
      this.figures.byStatus[status] = (this.figures.byStatus[status] ?? 0) + 1;
      // A process that was just ended takes the work it had with it, and says so.
      if (
        status >= 300 &&
        !this.isFull(status, began) &&
        !allowed.includes(status)
      )
        this.fault(
          "answer",
          `${method} ${path}: ${status} ${JSON.stringify(value).slice(0, 300)} (${Math.round(this.room() / 1024)} kB free)`,
        );
      return { status, value };
    } catch (error) {
      if ((error as Error).name === "TimeoutError")
        this.fault("hang", `${method} ${path} was not answered in ${HANG} ms`);
      else if (this.disturbed === began.disturbed)
        this.fault("answer", `${method} ${path}: ${String(error)}`);
      return null;
    }
  }

  async kill(signal: NodeJS.Signals): Promise<void> {
    let started = () => {};
    this.up = new Promise((resolve) => (started = resolve));
    this.disturbed++;
    this.figures.kills++;
    await this.server.kill(signal);
    await this.server.start();
    this.disturbed++;
    started();
  }

  /** Leaves no byte free on the disk. */
  fill(): void {
    if (!this.small) return;
    this.disturbed++;
    this.filled = true;
    this.figures.fillings++;
    const file = openSync(join(this.server.data, "ballast"), "w");
    try {
      const block = Buffer.alloc(64 * 1024);
      for (;;) writeSync(file, block);
    } catch {
      // Full, as was meant.
    } finally {
      closeSync(file);
    }
  }

  free(): void {
    rmSync(join(this.server.data, "ballast"), { force: true });
    this.filled = false;
    this.disturbed++;
  }

  /** Bytes free on the disk. */
  room(): number {
    const { bavail, bsize } = statfsSync(this.server.data);
    return bavail * bsize;
  }

  async remove(): Promise<void> {
    await this.server.kill();
    if (this.small) execFileSync("umount", ["-l", this.server.data]);
    rmSync(this.server.data, { recursive: true, force: true });
  }
}

function mounted(folder: string): boolean {
  try {
    execFileSync(
      "mount",
      ["-t", "tmpfs", "-o", `size=${DISK}m`, "tmpfs", folder],
      {
        stdio: "ignore",
      },
    );
    return true;
  } catch {
    return false;
  }
}

export const digest = (value: unknown): string =>
  createHash("sha256").update(JSON.stringify(value)).digest("hex").slice(0, 16);
