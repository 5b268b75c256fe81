import {
  describeAsset,
  jsonBody,
  numberField,
  numberParam,
  route,
} from "../../../answers";
import { UP_TO_DATE } from "../../../jobs/messages";

/** Queues running all stale stages again. */
export default route(async (event, home) => {
  const id = numberParam(event, "id");
  const revision = numberField(await jsonBody(event), "revision");
  const job = await home.queue.accept({
    asset_id: id,
    revision_id: revision,
    operation: UP_TO_DATE,
    options: "{}",
    uploads: "[]",
  });
  return {
    asset: await describeAsset(id, home),
    job: home.queue.describe(job),
  };
});
