import { setResponseHeader } from "h3";
import { numberParam, route } from "../../../answers";

const TYPES: Record<string, string> = {
  zip: "application/zip",
  png: "image/png",
  svg: "image/svg+xml",
};

/** The file a job left, to be saved. */
export default route(async (event, { store }) => {
  const { name, bytes } = await store.delivery(numberParam(event, "id"));
  setResponseHeader(
    event,
    "Content-Type",
    TYPES[name.split(".").pop()!] ?? TYPES.zip,
  );
  setResponseHeader(
    event,
    "Content-Disposition",
    `attachment; filename*=UTF-8''${encodeURIComponent(name)}`,
  );
  return bytes;
});
