import type { H3Event } from "h3";
import {
  createError,
  defineEventHandler,
  getRouterParam,
  readRawBody,
} from "h3";
import { ArnikError, OptionsError } from "../core/errors";
import { standingOf } from "../core/asset/stale";
import type { Home } from "./home";
import { home } from "./home";
import type { JobRow } from "./store/store";
import { ConflictError, NotFoundError } from "./store/store";
import { RunError } from "./jobs/queue";

/** Largest JSON body, bytes. */
const LARGEST_JSON = 16 * 1024 * 1024;

/** A route that gets the home and turns Arnik's errors into clear answers. */
export function route<T>(handle: (event: H3Event, home: Home) => Promise<T>) {
  return defineEventHandler(async (event) => {
    try {
      return await handle(event, await home());
    } catch (error) {
      if (!(error instanceof ArnikError)) throw error;
      throw createError({
        statusCode: statusOf(error),
        statusMessage: "Refused",
        message: error.message,
        data: {
          message: error.message,
          fields: error instanceof OptionsError ? error.fields : undefined,
        },
      });
    }
  });
}

function statusOf(error: ArnikError): number {
  if (error instanceof RunError) return error.status;
  if (error instanceof NotFoundError) return 404;
  if (error instanceof ConflictError) return 409;
  return error instanceof OptionsError ? 400 : 422;
}

/** A whole number from the path. @throws NotFoundError */
export function numberParam(event: H3Event, name: string): number {
  const value = Number(getRouterParam(event, name));
  if (!Number.isInteger(value) || value < 1)
    throw new NotFoundError("there is no such thing");
  return value;
}

/** The body as an object. @throws RunError 400, 413 */
export async function jsonBody(
  event: H3Event,
): Promise<Record<string, unknown>> {
  const length = Number(event.node.req.headers["content-length"] ?? 0);
  if (length > LARGEST_JSON)
    throw new RunError("the request is too large", 413);
  const text = (await readRawBody(event)) ?? "{}";
  try {
    const body = JSON.parse(text) as unknown;
    if (body && typeof body === "object" && !Array.isArray(body))
      return body as Record<string, unknown>;
  } catch {
    // Said below, the same as for JSON that is no object.
  }
  throw new RunError("the request is no JSON object", 400);
}

/** A whole number of a body. @throws RunError 400 */
export function numberField(
  body: Record<string, unknown>,
  name: string,
): number {
  const value = body[name];
  if (typeof value !== "number" || !Number.isInteger(value))
    throw new RunError(`"${name}" must be a whole number`, 400);
  return value;
}

/** What a page needs to know of a job. */
export function describeJob(job: JobRow, queue: Home["queue"]) {
  return {
    id: job.id,
    asset: job.asset_id,
    operation: job.operation,
    state: job.state,
    error: job.error,
    report: job.report
      ? (JSON.parse(job.report) as Record<string, unknown>)
      : null,
    made: job.made,
    ended: job.ended,
    progress: queue.progressOf(job.id),
  };
}

/** What a page needs to know of an asset. */
export async function describeAsset(id: number, { store, queue }: Home) {
  const row = await store.asset(id);
  const revision = await store.revision(row.head);
  const document = await store.documentOf(row.head);
  return {
    id: row.id,
    revision: row.head,
    number: await store.depth(row.head),
    title: revision.title,
    made: revision.made,
    canUndo: revision.parent_id !== null,
    canRedo: row.tip !== row.head,
    document,
    standing: standingOf(document),
    jobs: (await store.jobs(id))
      .slice(0, 8)
      .map((job) => describeJob(job, queue)),
  };
}
