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
  await home.queue.refuseWhileBusy(id);
  await home.store.step(id, revision, "undo");
  home.queue.emit("event", { kind: "asset", asset: id });
  return describeAsset(id, home);
});
