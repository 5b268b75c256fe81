import { readOptions } from "../../../../core/asset/operation";
import { findOperation } from "../../../../core/operations";
import {
  describeAsset,
  goneSignal,
  jsonBody,
  numberField,
  numberParam,
  route,
} from "../../../answers";
import { RequestError } from "../../../store/errors";
import type { Upload } from "../../../store/rows";

/** Runs an operation: an instant one at once, a heavy one as a job. */
export default route(async (event, home) => {
  const id = numberParam(event, "id");
  const body = await jsonBody(event);
  const revision = numberField(body, "revision");
  const operation = findOperation(String(body.operation));
  const options = readOptions(operation, body.options);
  if (operation.runs === "instant") {
    await home.queue.runNow(
      { assetId: id, revision, operation: operation.id, options },
      goneSignal(event),
    );
    return { asset: await describeAsset(id, home), job: null };
  }
  const uploads = Array.isArray(body.uploads)
    ? (body.uploads as unknown[]).map(waitingFile)
    : [];
  const job = await home.queue.accept({
    asset_id: id,
    revision_id: revision,
    operation: operation.id,
    options: JSON.stringify(options),
    uploads: JSON.stringify(uploads),
  });
  return {
    asset: await describeAsset(id, home),
    job: home.queue.describe(job),
  };
});

/** @throws RequestError */
function waitingFile(given: unknown): Upload {
  const { id, name } = (given ?? {}) as { id?: unknown; name?: unknown };
  if (
    typeof id !== "string" ||
    !/^[0-9a-f]{32}$/.test(id) ||
    typeof name !== "string"
  )
    throw new RequestError("an upload must be named by its id and name");
  return { id, name: name.replace(/^.*[/\\]/, "").slice(0, 200) };
}
