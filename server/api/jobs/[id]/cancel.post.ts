import { numberParam, route } from "../../../answers";

/** Cancels a job; the answer comes when it has ended. */
export default route(async (event, { store, queue }) => {
  const id = numberParam(event, "id");
  await queue.cancel(id);
  return queue.describe(await store.jobs.get(id));
});
