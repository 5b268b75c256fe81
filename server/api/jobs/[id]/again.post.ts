import { numberParam, route } from "../../../answers";

/** Runs a job that did not end well again, with the same options, on the asset as it is now. */
export default route(async (event, { queue }) =>
  queue.describe(await queue.again(numberParam(event, "id"))),
);
