import type { AssetDocument } from "../../core/asset/document";
import { SEEN_KINDS } from "../../core/base/pictures";
import type { StageView } from "./view-types";

/** What the sheet shows: the islands where the map or picture that is wanted is not there, or not yet. */
export function sheetShown(
  wanted: StageView["sheetShows"],
  { maps, painted }: Pick<AssetDocument, "maps" | "painted">,
): StageView["sheetShows"] {
  const missing =
    wanted === "painted"
      ? !painted
      : SEEN_KINDS.some((kind) => kind === wanted) &&
        !maps.some(({ kind }) => kind === wanted);
  return missing ? "islands" : wanted;
}
