import { setResponseHeader } from "h3";
import { numberParam, route } from "../../../answers";

/** The file a job left, to be saved. */
export default route(async (event, { store }) => {
  const { name, bytes } = await store.delivery(numberParam(event, "id"));
  setResponseHeader(event, "Content-Type", "application/zip");
  setResponseHeader(
    event,
    "Content-Disposition",
    `attachment; filename*=UTF-8''${encodeURIComponent(name)}`,
  );
  return bytes;
});
