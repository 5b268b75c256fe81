import type { AssetDocument } from "../../../core/asset/document";

/** The options of the operation `intake/brief` that say what the brief of an asset says. */
export const briefOptions = ({ name, brief }: AssetDocument) => ({
  name,
  triangles: brief.triangles,
  levels: brief.levels.join(", "),
  sheet: String(brief.sheetSize),
  aspect: brief.sheetHeight ? String(brief.sheetHeight / brief.sheetSize) : "1",
  // The sheet as it is, not as the density would have it anew.
  by: "sheet",
  sheets: brief.sheets,
  vertices: brief.vertices,
  padding: brief.padding,
  density: brief.texelsPerMetre,
  hulls: brief.hulls,
  profile: typeof brief.profile === "string" ? brief.profile : "own",
});
