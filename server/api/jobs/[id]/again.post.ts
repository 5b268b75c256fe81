import { describeJob, numberParam, route } from "../../../answers";

/** Runs a job that did not finish again, with the same options, on the asset as it is now. */
export default route(async (event, { store, queue }) => {
  const job = await store.job(numberParam(event, "id"));
  await queue.refuseWhileBusy(job.asset_id);
  const { head } = await store.asset(job.asset_id);
  const again = await queue.add({
    asset_id: job.asset_id,
    revision_id: head,
    operation: job.operation,
    options: job.options,
    uploads: job.uploads,
  });
  return describeJob(again, queue);
});
