import type { H3Event } from "h3";
import { createError, defineEventHandler, getRouterParam } from "h3";
import { ArnikError, OptionsError } from "../core/base/errors";
import {
  NotFoundError,
  RequestError,
  TooLargeError,
  statusOf,
} from "./store/errors";
import type { Home } from "./home";
import { home } from "./home";

/** Largest JSON body, bytes. */
const LARGEST_JSON = 16 * 1024 * 1024;

/** A route that gets the home and turns errors into clear answers. */
export function route<T>(handle: (event: H3Event, home: Home) => Promise<T>) {
  return defineEventHandler(async (event) => {
    try {
      return await handle(event, await home());
    } catch (error) {
      if (error instanceof ArnikError)
        throw answerOf(error.message, statusOf(error), {
          fields: error instanceof OptionsError ? error.fields : undefined,
        });
      const message = error instanceof Error ? error.message : String(error);
      throw answerOf(
        message.startsWith("unexpected: ") ? message : `unexpected: ${message}`,
        500,
      );
    }
  });
}

const answerOf = (message: string, statusCode: number, more: object = {}) =>
  createError({
    statusCode,
    statusMessage: statusCode < 500 ? "Refused" : "Failed",
    message,
    data: { message, ...more },
  });

/** A route that queues work on an asset which needs nothing but the revision it is asked of. */
export const acceptJob = (operation: string) =>
  route(async (event, home) => {
    const id = numberParam(event, "id");
    const revision = numberField(await jsonBody(event), "revision");
    const job = await home.queue.accept({
      asset_id: id,
      revision_id: revision,
      operation,
      options: "{}",
      uploads: "[]",
    });
    return {
      asset: await describeAsset(id, home),
      job: home.queue.describe(job),
    };
  });

/** A whole number from the path. @throws NotFoundError */
export function numberParam(event: H3Event, name: string): number {
  const value = Number(getRouterParam(event, name));
  if (!Number.isInteger(value) || value < 1)
    throw new NotFoundError("there is no such thing");
  return value;
}

/** The body as an object. @throws RequestError, TooLargeError */
export async function jsonBody(
  event: H3Event,
): Promise<Record<string, unknown>> {
  const text = await textOf(event);
  try {
    const body = JSON.parse(text || "{}") as unknown;
    if (body && typeof body === "object" && !Array.isArray(body))
      return body as Record<string, unknown>;
  } catch {
    // Said below, the same as for JSON that is no object.
  }
  throw new RequestError("the request is no JSON object");
}

/** The body as text, counted as it comes: what a header says of its length is not believed. */
async function textOf(event: H3Event): Promise<string> {
  const { req } = event.node;
  const chunks: Buffer[] = [];
  let size = Number(req.headers["content-length"] ?? 0);
  const refuse = () => {
    if (size > LARGEST_JSON)
      throw new TooLargeError("the request is too large: 16 MB are taken");
  };
  refuse();
  size = 0;
  for await (const chunk of req as AsyncIterable<Buffer>) {
    size += chunk.length;
    refuse();
    chunks.push(chunk);
  }
  return Buffer.concat(chunks).toString("utf8");
}

/** A whole number of a body. @throws RequestError */
export function numberField(
  body: Record<string, unknown>,
  name: string,
): number {
  const value = body[name];
  if (typeof value !== "number" || !Number.isInteger(value))
    throw new RequestError(`"${name}" must be a whole number`);
  return value;
}

/** What a page needs to know of an asset. */
export async function describeAsset(id: number, { store, queue }: Home) {
  const { row, revision, document, standing, jobs } = await store.view(id);
  return {
    id: row.id,
    revision: row.head,
    number: revision.number,
    title: revision.title,
    made: revision.made,
    canUndo: revision.parent_id !== null,
    canRedo: row.tip !== row.head,
    document,
    standing,
    jobs: jobs.map((job) => queue.describe(job)),
  };
}

/** Aborted when whoever asked has gone before the answer. */
export function goneSignal(event: H3Event): AbortSignal {
  const gone = new AbortController();
  const { res } = event.node;
  res.once("close", () => {
    if (!res.writableFinished) gone.abort();
  });
  return gone.signal;
}

/** Bytes that came from another thread, as a body. */
export const body = (bytes: Uint8Array) =>
  Buffer.from(bytes.buffer, bytes.byteOffset, bytes.byteLength);
