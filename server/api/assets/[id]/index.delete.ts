import { numberParam, route } from "../../../answers";

/** Removes an asset with all its revisions. */
export default route(async (event, { store, queue }) => {
  const id = numberParam(event, "id");
  await queue.refuseWhileBusy(id);
  await store.deleteAsset(id);
  queue.emit("event", { kind: "asset", asset: id });
  return { deleted: id };
});
