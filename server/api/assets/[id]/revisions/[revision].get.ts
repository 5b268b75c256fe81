import { numberParam, route } from "../../../../answers";
import { NotFoundError } from "../../../../store/errors";

/** The document of one revision, to be compared with another. */
export default route(async (event, { store }) => {
  const id = numberParam(event, "id");
  const revision = await store.revision(numberParam(event, "revision"));
  if (revision.asset_id !== id)
    throw new NotFoundError("there is no such revision of this asset");
  return {
    revision: revision.id,
    title: revision.title,
    document: await store.documentOf(revision.id),
  };
});
