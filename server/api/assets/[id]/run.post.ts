import { join } from "node:path";
import { existsSync } from "node:fs";
import { readOptions } from "../../../../core/operation";
import { findOperation } from "../../../../core/operations";
import {
  describeAsset,
  describeJob,
  jsonBody,
  numberField,
  numberParam,
  route,
} from "../../../answers";
import { RunError } from "../../../jobs/queue";
import { ConflictError } from "../../../store/store";

/** Runs an operation: an instant one at once, a heavy one as a job. */
export default route(async (event, home) => {
  const id = numberParam(event, "id");
  const body = await jsonBody(event);
  const revision = numberField(body, "revision");
  const operation = findOperation(String(body.operation));
  const options = readOptions(operation, body.options);
  if ((await home.store.asset(id)).head !== revision)
    throw new ConflictError(
      "the asset was changed elsewhere meanwhile; nothing was overwritten: look at the new state and try again",
    );
  if (operation.runs === "instant") {
    await home.queue.runNow({
      assetId: id,
      revision,
      operation: operation.id,
      options,
    });
    return { asset: await describeAsset(id, home), job: null };
  }
  await home.queue.refuseWhileBusy(id);
  const uploads = (
    Array.isArray(body.uploads) ? (body.uploads as unknown[]) : []
  ).map((each) => waitingFile(each, home.uploads));
  const job = await home.queue.add({
    asset_id: id,
    revision_id: revision,
    operation: operation.id,
    options: JSON.stringify(options),
    uploads: JSON.stringify(uploads),
  });
  return {
    asset: await describeAsset(id, home),
    job: describeJob(job, home.queue),
  };
});

function waitingFile(
  given: unknown,
  folder: string,
): { name: string; path: string } {
  const { id, name } = (given ?? {}) as { id?: unknown; name?: unknown };
  if (
    typeof id !== "string" ||
    !/^[0-9a-f]{32}$/.test(id) ||
    typeof name !== "string"
  )
    throw new RunError("an upload must be named by its id and name", 400);
  const path = join(folder, id);
  if (!existsSync(path))
    throw new RunError(`${name} is no longer waiting: upload it again`, 422);
  return { name: name.replace(/^.*[/\\]/, "").slice(0, 200), path };
}
