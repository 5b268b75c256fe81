import { PROFILES } from "../../../core/asset/profile";
import { safeName } from "../../../core/formats/raw-mesh";
import { readProfile } from "../../../core/ship/methods/profiles";
import { jsonBody, route } from "../../answers";
import { listOf } from "../../profiles";
import { RequestError } from "../../store/errors";

/** Keeps the profile of a JSON file in the list, in the place of one of its name. */
export default route(async (event, { store }) => {
  const { file, text } = await jsonBody(event);
  const profile = readProfile(
    safeName(String(file ?? ""), "profile"),
    new TextEncoder().encode(String(text ?? "")),
  );
  if (PROFILES.some(({ name }) => name === profile.name))
    throw new RequestError(
      `"${profile.name}" is what everybody has: call yours something else`,
    );
  await store.profiles.keep(profile);
  return { name: profile.name, list: await listOf(store) };
});
