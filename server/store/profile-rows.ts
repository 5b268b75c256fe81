import type { DeliveryProfile } from "../../core/asset/profile";
import type { Database } from "./database";
import { RequestError } from "./errors";
import { now } from "./rows";

/** So many profiles are kept. */
const MOST = 200;

/** Delivery profiles that were made here, each by its name. */
export class ProfileRows {
  constructor(private readonly database: Database) {}

  async list(): Promise<DeliveryProfile[]> {
    const rows = (await this.database
      .read("profiles")
      .select("profile")
      .orderBy("name")) as { profile: string }[];
    return rows.map(({ profile }) => JSON.parse(profile) as DeliveryProfile);
  }

  /** Keeps a profile, in the place of one of its name. @throws RequestError where there are too many */
  async keep(profile: DeliveryProfile): Promise<void> {
    await this.database.write(async (trx) => {
      const others = (await trx("profiles")
        .whereNot({ name: profile.name })
        .count({ count: "*" })
        .first()) as { count: number };
      if (others.count >= MOST)
        throw new RequestError(
          `${MOST} profiles are kept: take one from the list first`,
        );
      await trx("profiles")
        .insert({
          name: profile.name,
          profile: JSON.stringify(profile),
          changed: now(),
        })
        .onConflict("name")
        .merge();
    });
  }

  async remove(name: string): Promise<void> {
    await this.database.write((trx) =>
      trx("profiles").where({ name }).delete(),
    );
  }
}
