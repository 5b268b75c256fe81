import type { SurfaceLook, SurfacePicture } from "../base/pictures";
import type { PictureSize } from "./picture";
import { pictureSize } from "./picture";
import { safeName } from "./raw-mesh";

/** What a file says of a material's look; colour `#rrggbb`. */
export type FoundLook = Partial<Omit<SurfaceLook, "material">>;

/** Looks by the name of the material. */
export type FoundLooks = Map<string, FoundLook>;

/** Bytes of pictures that are kept whatever the files hold; beyond that, so many times what they hold. */
const KEPT_FREE = 64 * 1024 * 1024;
const KEPT_TIMES = 1.5;

const MISSING =
  "pictures named but not given: give them together with the file";
const UNKNOWN = "pictures left out: PNG and JPEG are read, up to 32 MB each";
const SECOND = "pictures on a second set of UVs left out: only one set is read";
const TOO_MANY =
  "pictures left out: the file makes more of them than it holds bytes";

/** The pictures that came along with a file, each looked at once. */
export class PictureShelf {
  private readonly read = new Map<string, SurfacePicture | null>();
  /** Bytes that may still be kept: places in a file may overlap. */
  private room: number;

  /**
   * @param others files given together, by name without a path
   * @param notes what could not be used is counted here
   */
  constructor(
    private readonly others: ReadonlyMap<string, Uint8Array>,
    private readonly notes: Map<string, number>,
  ) {
    let held = 0;
    for (const bytes of others.values()) held += bytes.length;
    this.room = Math.max(KEPT_FREE, KEPT_TIMES * held);
  }

  /** The picture under a path in whatever writing; only its last name counts. Null, with a note, where there is none. */
  named(path: string): SurfacePicture | null {
    let name = path.replace(/^.*[/\\]/, "");
    try {
      if (!this.others.has(name)) name = decodeURIComponent(name);
    } catch {
      // A name with a lone percent sign stands for itself.
    }
    const bytes = this.others.get(name);
    return this.once(`file ${name}`, () =>
      bytes ? this.look(name, bytes) : this.note(MISSING),
    );
  }

  /** A picture from bytes within a file. @param key what tells it from the others of that file */
  within(key: string, name: string, bytes: Uint8Array): SurfacePicture | null {
    return this.once(key, () => this.look(name, bytes));
  }

  /** Notes a picture of a kind, or on UVs, that are not read. */
  unread(why: "kind" | "UVs"): null {
    return this.note(why === "kind" ? UNKNOWN : SECOND);
  }

  private once(
    key: string,
    look: () => SurfacePicture | null,
  ): SurfacePicture | null {
    let found = this.read.get(key);
    if (found === undefined) this.read.set(key, (found = look()));
    return found;
  }

  private look(name: string, bytes: Uint8Array): SurfacePicture | null {
    let size: PictureSize;
    try {
      size = pictureSize(name, bytes);
    } catch {
      return this.note(UNKNOWN);
    }
    if (bytes.length > this.room) return this.note(TOO_MANY);
    this.room -= bytes.length;
    return {
      name: safeName(name, "picture"),
      ...size,
      bytes: bytes.slice(),
    };
  }

  private note(what: string): null {
    this.notes.set(what, (this.notes.get(what) ?? 0) + 1);
    return null;
  }
}
