import { describeJob, numberParam, route } from "../../../answers";

export default route(async (event, { store, queue }) => {
  const id = numberParam(event, "id");
  await queue.cancel(id);
  return describeJob(await store.job(id), queue);
});
