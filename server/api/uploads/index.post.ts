import { LARGEST_FILE } from "../../../core/formats/index";
import { route } from "../../answers";
import { tooLarge } from "../../uploads";

/** Takes one file as the raw body and keeps it under a made-up name until a job reads it. */
export default route((event, { uploads }) => {
  const { req } = event.node;
  if (Number(req.headers["content-length"] ?? 0) > LARGEST_FILE)
    throw tooLarge();
  return uploads.receive(req);
});
