import { PROFILES } from "../core/asset/profile";
import { optionsOf } from "../core/ship/methods/profiles";
import type { StoreClient } from "./store/store-client";

/** The list of delivery profiles, each as the options that set it, and whether it was made here. */
export async function listOf(store: StoreClient) {
  const own = await store.profiles.list();
  return [
    ...PROFILES.map((profile) => ({ profile, own: false })),
    ...own.map((profile) => ({ profile, own: true })),
  ].map(({ profile, own }) => ({
    name: profile.name,
    own,
    options: { ...optionsOf(profile) },
  }));
}
