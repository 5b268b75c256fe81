import type { FigureRow } from "../shared/figures";
import { bytes, counted, extents, spaced } from "../shared/figures";
import type { Facts } from "./facts";
import type { Drawn } from "./messages";

/** What the file is, as rows of figures. */
export function factRows({ levels, hulls, size, parts }: Facts): FigureRow[] {
  return [
    { label: "Parts", value: spaced(parts) },
    ...levels.flatMap(({ triangles, vertices, materials }, l): FigureRow[] => [
      {
        label: l ? `Level ${l}` : "Triangles",
        value: spaced(triangles),
        limit: `${spaced(vertices)} vertices`,
      },
      ...(l
        ? []
        : [
            {
              label: "Materials",
              value: spaced(materials),
              limit: counted(materials, "call"),
            },
          ]),
    ]),
    {
      label: "Hulls",
      value: spaced(hulls.count),
      ...(hulls.triangles && { limit: `${spaced(hulls.triangles)} triangles` }),
    },
    { label: "Size", value: extents(size) },
  ];
}

/** What its textures take on a graphics card, with their mips. */
export function textureRows({ textures }: Facts): FigureRow[] {
  const sum = (of: "plain" | "blocks") =>
    textures.reduce((all, texture) => all + texture[of], 0);
  return [
    ...textures.map(({ name, format, width, height, plain }) => ({
      label: `${name}, ${format}`,
      value: `${width} × ${height}`,
      limit: bytes(plain),
    })),
    ...(textures.length
      ? [
          { label: "Together, as they are", value: bytes(sum("plain")) },
          { label: "In blocks of a byte a texel", value: bytes(sum("blocks")) },
        ]
      : []),
  ];
}

/** What the last picture took. */
export function drawnRows({
  calls,
  triangles,
  byLevel,
}: Pick<Drawn, "calls" | "triangles" | "byLevel">): FigureRow[] {
  return [
    { label: "Draw calls, with shadows", value: spaced(calls) },
    { label: "Triangles", value: spaced(triangles) },
    ...(byLevel.length > 1
      ? byLevel.map((count, l) => ({
          label: l ? `At level ${l}` : "At full detail",
          value: counted(count, "copy", "copies"),
        }))
      : []),
  ];
}
