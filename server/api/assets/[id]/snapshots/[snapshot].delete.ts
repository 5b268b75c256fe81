import { numberParam, route } from "../../../../answers";

/** Takes the name off a revision; the revision itself stays. */
export default route(async (event, { store }) => {
  await store.snapshots.remove(
    numberParam(event, "id"),
    numberParam(event, "snapshot"),
  );
  return {};
});
