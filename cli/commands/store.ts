import { existsSync, renameSync, rmSync } from "node:fs";
import { dirname, join, resolve } from "node:path";
import { ArnikError } from "../../core/base/errors";
import type { Call } from "../arguments";
import { UsageError } from "../arguments";
import { defineCommand } from "../command";
import type { Session } from "../session";

const ACTS = ["check", "repair", "compact", "backup"] as const;

/** Care of the store. What SQLite needs is loaded only here. */
export const store = defineCommand({
  name: "store",
  words: "check|repair|compact|backup [FILE] [--data DIR]",
  about:
    "care of the store: says what is damaged, mends it, gives room back, or copies it into FILE while it is used",
  flags: {
    data: { takes: "DIR", about: "the data folder; ARNIK_DATA or data" },
  },
  files: [1, 2],
  writes: () => [],
  async run(call, session) {
    const [act, to] = call.files;
    if (!(ACTS as readonly string[]).includes(act))
      throw new UsageError(`store takes ${ACTS.join(", ")}, not "${act}"`);
    if ((act === "backup") !== (to !== undefined))
      throw new UsageError(
        act === "backup"
          ? "store backup takes the FILE to write"
          : `store ${act} takes no file`,
      );
    const folder = resolve(
      String(call.flags.data ?? process.env.ARNIK_DATA ?? "data"),
    );
    if (!existsSync(join(folder, "arnik.sqlite")))
      throw new ArnikError(`${folder}: there is no store in it`);
    switch (act) {
      case "check":
        return check(folder, session);
      case "repair":
        return repair(folder, session);
      case "compact":
        return compact(folder, session);
      default:
        return backup(folder, to, call, session);
    }
  },
});

const progressOf = (session: Session) => (share: number, step: string) =>
  session.show(share, step);

/** Beside a server or alone: nothing is changed. @throws ArnikError where something is wrong */
async function check(folder: string, session: Session) {
  const { Store } = await import("../../server/store/store");
  const { FolderLock } = await import("../../server/store/folder-lock");
  const { checkStore } = await import("../../server/store/check");
  const alone = await FolderLock.take(folder, "arnik store check").catch(
    () => null,
  );
  try {
    const store = await Store.join(folder, null);
    try {
      const found = await checkStore(
        store.database,
        !alone,
        progressOf(session),
      );
      if (found.troubles.length)
        session.fail(
          `${found.troubles.length} troubles, such as: ${found.troubles[0].what}. \`arnik store repair\` keeps what is whole`,
        );
      return { ...found };
    } finally {
      await store.close();
    }
  } finally {
    await alone?.release();
  }
}

async function repair(folder: string, session: Session) {
  const { FolderLock } = await import("../../server/store/folder-lock");
  const { repairStore } = await import("../../server/store/repair");
  const lock = await FolderLock.take(folder, "arnik store repair");
  try {
    const { kept, lost, before } = await repairStore(
      folder,
      progressOf(session),
    );
    return { ...kept, lost, before };
  } finally {
    await lock.release();
  }
}

async function compact(folder: string, session: Session) {
  const { Store, storeFile } = await import("../../server/store/store");
  const { bytesOf } = await import("../../server/store/check");
  const store = await Store.open(folder, "arnik store compact");
  try {
    const bytesBefore = bytesOf(storeFile(folder));
    session.show(0.1, "writing the store anew");
    await store.database.vacuum();
    const bytesAfter = bytesOf(storeFile(folder));
    return { bytesBefore, bytesAfter, givenBack: bytesBefore - bytesAfter };
  } finally {
    await store.close();
  }
}

async function backup(
  folder: string,
  to: string,
  call: Call,
  session: Session,
) {
  const { Store } = await import("../../server/store/store");
  const { bytesOf } = await import("../../server/store/check");
  if (existsSync(to) && call.flags.overwrite !== true)
    throw new UsageError(
      `${to}: something has that name: choose another one, or add --overwrite`,
    );
  if (!existsSync(dirname(resolve(to))))
    throw new ArnikError(`${dirname(resolve(to))}: there is no such folder`);
  const waiting = join(dirname(resolve(to)), `.arnik-${process.pid}.part`);
  const store = await Store.join(folder, null);
  try {
    await store.database.backup(waiting, (share) =>
      session.show(share, "copying"),
    );
    renameSync(waiting, to);
  } finally {
    for (const end of ["", "-journal", "-wal", "-shm"])
      rmSync(waiting + end, { force: true });
    await store.close();
  }
  return { file: to, bytes: bytesOf(to) };
}
