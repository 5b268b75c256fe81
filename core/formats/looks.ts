import type { SurfaceLook, SurfacePicture } from "../asset/asset";
import { pictureSize } from "./picture";

/** What a file says of a material's look; colour `#rrggbb`. */
export type FoundLook = Partial<Omit<SurfaceLook, "material">>;

/** Looks by the name of the material. */
export type FoundLooks = Map<string, FoundLook>;

const MISSING =
  "pictures named but not given: give them together with the file";
const UNKNOWN = "pictures left out: PNG and JPEG are read, up to 32 MB each";

/** The pictures that came along with a file, each looked at once. */
export class PictureShelf {
  private readonly read = new Map<string, SurfacePicture | null>();

  /**
   * @param others files given together, by name without a path
   * @param notes what could not be used is counted here
   */
  constructor(
    private readonly others: ReadonlyMap<string, Uint8Array>,
    private readonly notes: Map<string, number>,
  ) {}

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

  private once(
    key: string,
    look: () => SurfacePicture | null,
  ): SurfacePicture | null {
    let found = this.read.get(key);
    if (found === undefined) this.read.set(key, (found = look()));
    return found;
  }

  private look(name: string, bytes: Uint8Array): SurfacePicture | null {
    try {
      return { name, ...pictureSize(name, bytes), bytes: bytes.slice() };
    } catch {
      return this.note(UNKNOWN);
    }
  }

  private note(what: string): null {
    this.notes.set(what, (this.notes.get(what) ?? 0) + 1);
    return null;
  }
}
