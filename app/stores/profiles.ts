import { defineStore } from "pinia";
import { call } from "./api";

/** A delivery profile as the options that set it. */
export interface ListedProfile {
  name: string;
  /** Whether it was made here, and can be taken from the list. */
  own: boolean;
  options: Record<string, unknown>;
}

/** The delivery profiles of this Arnik. */
export const useProfiles = defineStore("profiles", {
  state: () => ({ list: [] as ListedProfile[] }),
  actions: {
    /** @throws Refusal */
    async load() {
      this.list = await call<ListedProfile[]>("GET", "profiles");
    },
    /** Keeps the profile of a JSON file. @returns it @throws Refusal */
    async keep(file: string, text: string): Promise<ListedProfile> {
      const { name, list } = await call<{
        name: string;
        list: ListedProfile[];
      }>("POST", "profiles", { file, text });
      this.list = list;
      return list.find((each) => each.name === name)!;
    },
    /** @throws Refusal */
    async remove(name: string) {
      this.list = await call<ListedProfile[]>(
        "DELETE",
        `profiles/${encodeURIComponent(name)}`,
      );
    },
  },
});
