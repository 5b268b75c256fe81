import { MeshFormatError } from "../../../../../core/base/errors";
import { pictureSize } from "../../../../../core/formats/picture";
import { safeName } from "../../../../../core/formats/raw-mesh";
import { jsonBody, numberField, numberParam, route } from "../../../../answers";

/** Most characters of a snapshot's picture in base 64. */
const LARGEST_PICTURE = 1_500_000;

/** Gives the revision on the table a name and the picture the view sends. */
export default route(async (event, { store }) => {
  const id = numberParam(event, "id");
  const body = await jsonBody(event);
  const name = safeName(String(body.name ?? "").trim(), "snapshot");
  let picture: Uint8Array | null = null;
  if (typeof body.picture === "string" && body.picture) {
    if (body.picture.length > LARGEST_PICTURE)
      throw new MeshFormatError("picture", "the picture is too large");
    picture = Buffer.from(body.picture, "base64");
    if (pictureSize("picture", picture).kind !== "png")
      throw new MeshFormatError("picture", "a PNG is expected");
  }
  await store.snapshots.add(id, numberField(body, "revision"), name, picture);
  return { name };
});
