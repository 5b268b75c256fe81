import { randomBytes } from "node:crypto";
import {
  existsSync,
  mkdirSync,
  readdirSync,
  renameSync,
  rmSync,
  statSync,
} from "node:fs";
import { join } from "node:path";
import { open } from "node:fs/promises";
import type { IncomingMessage } from "node:http";
import { LARGEST_FILE } from "../core/formats/index";
import {
  DiskFullError,
  RequestError,
  TooLargeError,
  saysFull,
} from "./store/errors";
import type { Upload } from "./store/rows";

/** How long a file that nobody asked for, or whose job did not end well, is kept: a day. */
export const KEPT = 24 * 60 * 60 * 1000;

const folderOf = (data: string) => join(data, "uploads");

/** Where a file that was sent waits. @param data the data folder */
export const uploadPath = (data: string, id: string) =>
  join(folderOf(data), id);

/** Files that were sent and wait for a job to read them. They belong to that job, or to a day, and are gone after. */
export class Uploads {
  private arriving = new Set<string>();

  constructor(private readonly data: string) {}

  /**
   * Keeps a file as it arrives. What can't be kept is still read to its end, so that whoever sends it hears why.
   * @throws TooLargeError, DiskFullError, RequestError; nothing is kept then
   */
  async receive(body: IncomingMessage): Promise<{ id: string; bytes: number }> {
    const id = randomBytes(16).toString("hex");
    const part = `${id}.part`;
    const path = join(folderOf(this.data), part);
    let bytes = 0;
    this.arriving.add(part);
    try {
      mkdirSync(folderOf(this.data), { recursive: true });
      const file = await open(path, "wx");
      try {
        for await (const chunk of body.iterator({ destroyOnReturn: false })) {
          bytes += (chunk as Buffer).length;
          if (bytes > LARGEST_FILE) throw tooLarge();
          await file.writeFile(chunk as Buffer);
        }
        if (!body.complete)
          throw new RequestError("the file did not arrive whole");
        await file.sync();
      } finally {
        await file.close();
      }
      renameSync(path, uploadPath(this.data, id));
    } catch (error) {
      rmSync(path, { force: true });
      body.resume();
      if (saysFull(error)) throw new DiskFullError();
      if (body.errored) throw new RequestError("the file did not arrive whole");
      throw error;
    } finally {
      this.arriving.delete(part);
    }
    return { id, bytes };
  }

  has(id: string): boolean {
    return existsSync(uploadPath(this.data, id));
  }

  /** Never throws: what can't be removed now is swept away later. */
  drop(uploads: readonly Upload[]): void {
    for (const { id } of uploads)
      try {
        rmSync(uploadPath(this.data, id), { force: true });
      } catch {
        // Swept away within a day.
      }
  }

  /**
   * Removes what was forgotten: what no job names and is a day old, what only jobs name that are done (a server that
   * was killed just then could not), and files that never arrived whole.
   */
  sweep(named: ReadonlySet<string>, done: ReadonlySet<string>): void {
    if (!existsSync(folderOf(this.data))) return;
    for (const name of readdirSync(folderOf(this.data))) {
      if (named.has(name) || this.arriving.has(name)) continue;
      const path = join(folderOf(this.data), name);
      const age =
        Date.now() - (statSync(path, { throwIfNoEntry: false })?.mtimeMs ?? 0);
      if (name.endsWith(".part") || done.has(name) || age > KEPT)
        rmSync(path, { force: true });
    }
  }
}

export const tooLarge = () => new TooLargeError("files up to 512 MB are taken");
