import { randomBytes } from "node:crypto";
import { createWriteStream, mkdirSync, rmSync } from "node:fs";
import { join } from "node:path";
import { Transform } from "node:stream";
import { pipeline } from "node:stream/promises";
import { LARGEST_FILE } from "../../../core/formats/index";
import { route } from "../../answers";
import { RunError } from "../../jobs/queue";

/** Takes one file as the raw body and keeps it under a made-up name until a job reads it. */
export default route(async (event, { uploads }) => {
  const tooLarge = new RunError("files up to 512 MB are taken", 413);
  if (Number(event.node.req.headers["content-length"] ?? 0) > LARGEST_FILE)
    throw tooLarge;
  mkdirSync(uploads, { recursive: true });
  const id = randomBytes(16).toString("hex");
  const path = join(uploads, id);
  let bytes = 0;
  const limit = new Transform({
    transform(chunk: Buffer, _, done) {
      bytes += chunk.length;
      done(bytes > LARGEST_FILE ? tooLarge : null, chunk);
    },
  });
  try {
    await pipeline(event.node.req, limit, createWriteStream(path));
  } catch (error) {
    rmSync(path, { force: true });
    if ((error as NodeJS.ErrnoException).code === "ENOSPC")
      throw new RunError("the disk is full: nothing was stored", 507);
    throw error;
  }
  return { id, bytes };
});
