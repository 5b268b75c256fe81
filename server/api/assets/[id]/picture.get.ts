import { setResponseHeader } from "h3";
import { body, numberParam, route } from "../../../answers";
import { NotFoundError } from "../../../store/errors";

/** The asset's picture as PNG. */
export default route(async (event, { store }) => {
  const png = await store.picture(numberParam(event, "id"));
  if (!png) throw new NotFoundError("there is no picture yet");
  setResponseHeader(event, "Content-Type", "image/png");
  setResponseHeader(event, "Cache-Control", "no-cache");
  return body(png);
});
