import type { PictureUse, SurfaceLook } from "../base/pictures";
import { hexColour } from "./colours";
import type { FoundLooks, PictureShelf } from "./looks";
import { TextReader } from "./text-reader";

/** What the statements that name a picture stand for; those for bumps mean normal maps since there are any. */
const PICTURES: Record<string, PictureUse> = {
  map_kd: "colour",
  map_d: "opacity",
  norm: "normal",
  map_kn: "normal",
  map_bump: "normal",
  bump: "normal",
};

/** Numbers or words that follow an option of a picture, by its name; −1 for up to three numbers. */
const OPTIONS: Record<string, number> = {
  "-blendu": 1,
  "-blendv": 1,
  "-bm": 1,
  "-boost": 1,
  "-cc": 1,
  "-clamp": 1,
  "-imfchan": 1,
  "-mm": 2,
  "-o": -1,
  "-s": -1,
  "-t": -1,
  "-texres": 1,
  "-type": 1,
};

/**
 * Reads a material library: diffuse colour, opacity under 1, and the pictures of colour, normals and opacity with
 * where they are moved and scaled to.
 * @param looks what it says is put here
 */
export function readMtl(
  bytes: Uint8Array,
  looks: FoundLooks,
  shelf: PictureShelf,
): void {
  const reader = new TextReader(bytes);
  let name = "";
  const look = () => {
    let found = looks.get(name);
    if (!found) looks.set(name, (found = {}));
    return found;
  };
  for (; !reader.done; reader.nextLine()) {
    if (reader.atLineEnd()) continue;
    const word = reader.word();
    if (word === "newmtl") name = reader.restOfLine();
    if (!name) continue;
    if (word === "d" || word === "Tr") {
      const value = reader.number();
      if (value === undefined || !(value >= 0 && value <= 1)) continue;
      const opacity = word === "d" ? value : 1 - value;
      if (opacity < 1) look().opacity = opacity;
    }
    if (word === "Kd") {
      const parts = [reader.number(), reader.number(), reader.number()];
      if (parts.every((x) => x !== undefined && Number.isFinite(x)))
        look().colour = hexColour(parts as number[]);
    }
    const use = PICTURES[word.toLowerCase()];
    if (!use) continue;
    const { path, placing } = pictureLine(reader.restOfLine());
    const picture = path ? shelf.named(path) : null;
    if (picture)
      look().pictures = {
        ...look().pictures,
        [use]: { ...picture, ...(placing && { placing }) },
      };
  }
}

/** The path at the end of a picture's line, blanks in it and all, and where its options put it. */
function pictureLine(line: string): { path: string; placing?: number[] } {
  const offset = [0, 0];
  const scale = [1, 1];
  let rest = line;
  for (;;) {
    const [option] = /^-[a-z]+/.exec(rest) ?? [];
    const takes = option === undefined ? undefined : OPTIONS[option];
    if (takes === undefined) break;
    rest = rest.slice(option!.length).trimStart();
    for (let k = 0; takes < 0 ? k < 3 : k < takes; k++) {
      const [word] = /^\S+/.exec(rest) ?? [""];
      const value = Number(word);
      if (!word || (takes < 0 && !Number.isFinite(value))) break;
      rest = rest.slice(word.length).trimStart();
      if (option === "-o" && k < 2) offset[k] = value;
      if (option === "-s" && k < 2) scale[k] = value;
    }
  }
  const moved = [...offset, scale[0] - 1, scale[1] - 1].some((x) => x !== 0);
  return {
    path: rest.replace(/^"(.*)"$/, "$1"),
    ...(moved && {
      placing: [scale[0], 0, offset[0], 0, scale[1], offset[1]],
    }),
  };
}

/** Material library of plain colours and opacities. */
export function writeMtl(
  looks: readonly Pick<SurfaceLook, "material" | "colour" | "opacity">[],
): Uint8Array {
  const lines = ["# Arnik"];
  for (const { material, colour, opacity = 1 } of looks) {
    const rgb = [1, 3, 5].map((at) =>
      (parseInt(colour.slice(at, at + 2), 16) / 255).toFixed(4),
    );
    lines.push(`newmtl ${material}`, `Kd ${rgb.join(" ")}`);
    if (opacity < 1) lines.push(`d ${opacity.toFixed(4)}`);
  }
  return new TextEncoder().encode(`${lines.join("\n")}\n`);
}
