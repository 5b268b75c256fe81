import { fork } from "node:child_process";
import { fileURLToPath } from "node:url";
import { CancelledError } from "../../core/base/errors";
import { TimeError } from "../store/errors";
import { builtScript } from "../../host/built";
import { Remote } from "../store/remote";
import type { Channel } from "../store/remote";
import type { JobProcessData, Work, WorkDone, WorkProgress } from "./messages";

/** How long cancelled work may take to notice before its process is ended, milliseconds. */
const PATIENCE = 400;

/**
 * A process that works, one piece after the other, started when first needed and again after it ended. Being a
 * process, it can be ended in whatever it is doing, and whatever happens to it (a crash, no memory left) the server
 * goes on; an open transaction of its own is rolled back by SQLite.
 */
export class WorkProcess {
  private readonly remote: Remote;
  private line: Promise<unknown> = Promise.resolve();

  constructor(data: JobProcessData) {
    this.remote = new Remote(() => processChannel(data), lossOf);
  }

  /**
   * @param signal stops the work; it ends within a second whatever it does
   * @throws whatever the work throws; CancelledError or the signal's TimeError; LostError
   */
  run(
    work: Work,
    signal: AbortSignal,
    progress: (at: WorkProgress) => void = () => {},
  ): Promise<WorkDone> {
    let begun = false;
    const done = this.line.then(() => {
      begun = true;
      return this.runAlone(work, signal, progress);
    });
    this.line = done.catch(() => {});
    return new Promise((resolve, reject) => {
      done.then(resolve, reject);
      // What still waits for its turn is over at once.
      const leave = () => {
        if (!begun) reject(reasonOf(signal));
      };
      signal.addEventListener("abort", leave, { once: true });
    });
  }

  private async runAlone(
    work: Work,
    signal: AbortSignal,
    progress: (at: WorkProgress) => void,
  ): Promise<WorkDone> {
    if (signal.aborted) throw reasonOf(signal);
    const { number, answer } = this.remote.call<WorkDone>(
      "run",
      [work],
      progress as (news: never) => void,
    );
    let timer: NodeJS.Timeout | undefined;
    const stop = () => {
      this.remote.post({ cancel: number });
      timer = setTimeout(() => void this.remote.end("stopped"), PATIENCE);
    };
    signal.addEventListener("abort", stop, { once: true });
    try {
      return await answer;
    } catch (error) {
      // What was asked to stop and failed has stopped, whatever it says.
      throw signal.aborted ? reasonOf(signal) : error;
    } finally {
      clearTimeout(timer);
      signal.removeEventListener("abort", stop);
    }
  }

  /** Starts the process before there is work, so that the first does not wait for it. */
  warm(): void {
    this.remote.warm();
  }

  end(): Promise<void> {
    return this.remote.end();
  }
}

const reasonOf = (signal: AbortSignal): Error =>
  signal.reason instanceof TimeError ? signal.reason : new CancelledError();

function lossOf(why: string): string {
  return /SIGKILL|SIGABRT|134|137/.test(why)
    ? `the work's process was ended (${why}), most likely for want of memory: try it on less, or on a lighter source`
    : `the work's process ended early (${why}): it can be run again`;
}

function processChannel(data: JobProcessData): Channel {
  const child = fork(
    fileURLToPath(builtScript("job-process")),
    [JSON.stringify(data)],
    {
      serialization: "advanced",
      stdio: ["ignore", "ignore", "ignore", "ipc"],
    },
  );
  const ended = new Promise<void>((resolve) => {
    child.once("exit", () => resolve());
    child.once("error", () => resolve());
  });
  return {
    send(message) {
      if (!child.connected) throw new Error("it has just ended");
      child.send(message as object, () => {});
    },
    listen(message, gone) {
      child.on("message", message);
      child.on("error", (error) => gone(error.message));
      child.on("exit", (code, signal) => gone(signal ?? `code ${code}`));
    },
    end() {
      child.kill("SIGKILL");
      return ended;
    },
  };
}
