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
  await home.queue.refuseWhileBusy(id);
  await home.store.restore(
    id,
    numberField(body, "revision"),
    numberField(body, "to"),
  );
  home.queue.emit("event", { kind: "asset", asset: id });
  return describeAsset(id, home);
});
