import { getRouterParam } from "h3";
import { route } from "../../answers";
import { listOf } from "../../profiles";

/** Takes a profile that was made here from the list; assets that go by it keep it. */
export default route(async (event, { store }) => {
  await store.profiles.remove(
    decodeURIComponent(getRouterParam(event, "name") ?? ""),
  );
  return listOf(store);
});
