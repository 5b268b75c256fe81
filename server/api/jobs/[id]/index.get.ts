import { numberParam, route } from "../../../answers";

/** A job as it is now. */
export default route(async (event, { store, queue }) =>
  queue.describe(await store.jobs.get(numberParam(event, "id"))),
);
