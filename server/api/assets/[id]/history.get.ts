import { numberParam, route } from "../../../answers";

/** Named snapshots and the newest revisions of an asset, newest first. */
export default route(async (event, { store }) => {
  const id = numberParam(event, "id");
  await store.asset(id);
  return {
    snapshots: (await store.snapshots.of(id)).map(
      ({ revision_id, ...rest }) => ({
        ...rest,
        revision: revision_id,
      }),
    ),
    revisions: await store.revisions(id),
  };
});
