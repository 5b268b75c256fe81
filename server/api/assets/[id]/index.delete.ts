import { numberParam, route } from "../../../answers";

/** Removes an asset with all its revisions; a job that runs on it is cancelled first. */
export default route(async (event, { queue }) => {
  const id = numberParam(event, "id");
  await queue.deleteAsset(id);
  return { deleted: id };
});
