import type { DrawnLook } from "../../asset/drawing";
import { FROM_ABOVE } from "../../asset/drawing";
import { MeshFormatError } from "../../base/errors";
import type { ArchivedFile } from "../../formats/archive";
import { unzipFiles } from "../../formats/archive";
import { pictureSize } from "../../formats/picture";
import type { Vector } from "../../space/vector";

/** A picture that goes out with a delivery: from where, and what it shows. */
export interface Shot {
  name: string;
  /** Towards the eye, of unit length. */
  back: Vector;
  look: DrawnLook;
}

/** Pictures of one size, px. */
export interface Shots {
  width: number;
  height: number;
  /** Framed alike from every side, for pictures that follow each other. */
  steady: boolean;
  shots: readonly Shot[];
}

/** What a turntable is made by. */
export interface Turn {
  frames: number;
  /** px */
  size: number;
  look: DrawnLook;
  /** Degrees. */
  above: number;
}

/** A turntable unless told otherwise, and what it may be. */
export const TURN: Turn = { frames: 24, size: 384, look: "baked", above: 18 };
export const TURN_LIMITS = {
  frames: { min: 4, max: 120 },
  size: { min: 64, max: 1024 },
  above: { min: -80, max: 80 },
};

const level = (x: number, z: number): Vector => {
  const y = 0.25;
  const length = Math.hypot(x, y, z);
  return [x / length, y / length, z / length];
};

/** The pictures of a report, as large as they are on its page. */
export const REPORT_SHOTS: Shots = {
  width: 380,
  height: 300,
  steady: false,
  shots: [
    { name: "front", back: level(0, 1), look: "baked" },
    { name: "right", back: level(1, 0), look: "baked" },
    { name: "back", back: level(0, -1), look: "baked" },
    { name: "left", back: level(-1, 0), look: "baked" },
    { name: "triangles", back: FROM_ABOVE, look: "wire" },
    { name: "checker", back: FROM_ABOVE, look: "checker" },
  ],
};
/** Pictures of the view have so many pixels for one of the page. */
const FINER = 2;

/** The pictures of a turntable, one for each step. */
export function turnShots({ frames, size, look, above }: Turn): Shots {
  const tilt = (above * Math.PI) / 180;
  return {
    width: size,
    height: size,
    steady: true,
    shots: Array.from({ length: frames }, (_, f) => {
      const turn = (2 * Math.PI * f) / frames;
      return {
        name: String(f).padStart(3, "0"),
        back: [
          Math.sin(turn) * Math.cos(tilt),
          Math.sin(tilt),
          Math.cos(turn) * Math.cos(tilt),
        ],
        look,
      };
    }),
  };
}

/** The pictures that an operation takes from a view, where there is one; null where it takes none, or refuses its options. */
export function shotsFor(
  operation: string,
  options: Readonly<Record<string, unknown>>,
): Shots | null {
  if (operation === "ship/turntable") {
    const turn = { ...TURN, ...options };
    const within = (["frames", "size", "above"] as const).every(
      (key) =>
        turn[key] >= TURN_LIMITS[key].min && turn[key] <= TURN_LIMITS[key].max,
    );
    return within ? turnShots(turn) : null;
  }
  if (operation !== "ship/archive" || options.page === false) return null;
  return {
    ...REPORT_SHOTS,
    width: FINER * REPORT_SHOTS.width,
    height: FINER * REPORT_SHOTS.height,
  };
}

/**
 * The pictures that came with a call, PNGs by their names; null where none came.
 * @param files an archive of them
 * @throws MeshFormatError where one is missing, or is no PNG of the size and kind of the others
 */
export function givenPictures(
  files: readonly ArchivedFile[] | undefined,
  { width, height, shots }: Shots,
): ReadonlyMap<string, Uint8Array> | null {
  if (!files?.length) return null;
  const [{ name: archive, bytes }] = files;
  const pictures = unzipFiles(archive, bytes);
  /** Width, height, depth and kind, as the header has them (PNG, 11.2.2). */
  const header = (png: Uint8Array) => png.subarray(16, 29).join();
  const found = new Map<string, Uint8Array>();
  for (const { name } of shots) {
    const png = pictures[`${name}.png`];
    if (!png)
      throw new MeshFormatError(archive, `the picture "${name}" is missing`);
    const size = pictureSize(`${archive}: ${name}.png`, png);
    const [first = png] = found.values();
    if (
      size.kind !== "png" ||
      size.width !== width ||
      size.height !== height ||
      header(png) !== header(first)
    )
      throw new MeshFormatError(
        archive,
        `${name}.png is no PNG of ${width} × ${height} px like the others`,
      );
    found.set(name, png);
  }
  return found;
}
