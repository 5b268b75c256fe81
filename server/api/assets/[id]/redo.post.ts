import {
  describeAsset,
  jsonBody,
  numberField,
  numberParam,
  route,
} from "../../../answers";

export default route(async (event, home) => {
  const id = numberParam(event, "id");
  const revision = numberField(await jsonBody(event), "revision");
  await home.queue.change(id, () => home.store.step(id, revision, "redo"));
  return describeAsset(id, home);
});
