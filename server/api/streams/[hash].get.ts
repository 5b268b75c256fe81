import { getRouterParam, setResponseHeader } from "h3";
import { body, route } from "../../answers";
import { NotFoundError } from "../../store/errors";

/** The bytes of a stream; they never change under their hash. */
export default route(async (event, { blobs }) => {
  const hash = getRouterParam(event, "hash") ?? "";
  if (!/^[0-9a-f]{64}$/.test(hash))
    throw new NotFoundError("there is no such stream");
  const bytes = await blobs.streams.bytes(hash);
  setResponseHeader(event, "Content-Type", "application/octet-stream");
  setResponseHeader(
    event,
    "Cache-Control",
    "private, max-age=31536000, immutable",
  );
  return body(bytes);
});
