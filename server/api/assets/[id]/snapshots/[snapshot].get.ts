import { setResponseHeader } from "h3";
import { body, numberParam, route } from "../../../../answers";
import { NotFoundError } from "../../../../store/errors";

/** A snapshot's picture as PNG. */
export default route(async (event, { store }) => {
  const png = await store.snapshots.picture(numberParam(event, "snapshot"));
  if (!png) throw new NotFoundError("this snapshot has no picture");
  setResponseHeader(event, "Content-Type", "image/png");
  return body(png);
});
