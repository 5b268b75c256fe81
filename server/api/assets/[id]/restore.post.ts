import {
  describeAsset,
  jsonBody,
  numberField,
  numberParam,
  route,
} from "../../../answers";

/** Makes an older revision the newest one again. */
export default route(async (event, home) => {
  const id = numberParam(event, "id");
  const body = await jsonBody(event);
  const revision = numberField(body, "revision");
  const to = numberField(body, "to");
  await home.queue.change(id, () => home.store.restore(id, revision, to));
  return describeAsset(id, home);
});
