import { setResponseHeader } from "h3";
import { body, numberParam, route } from "../../../answers";

const TYPES: Record<string, string> = {
  zip: "application/zip",
  png: "image/png",
  svg: "image/svg+xml",
};

/** The file a job left, to be saved. */
export default route(async (event, { blobs }) => {
  const { name, bytes } = await blobs.jobs.delivery(numberParam(event, "id"));
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
  return body(bytes);
});
