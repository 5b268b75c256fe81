import { unseenFaces } from "../../core/survey/methods/unseen";
import type { ViewState } from "../shared/messages";
import type { PartView } from "./part-view";

/** What the threshold would leave out, over all parts that were looked at. */
export function countUnseen(
  views: Iterable<PartView>,
  state: Pick<ViewState, "threshold" | "facesOf">,
): { faces: number; triangles: number; share: number } {
  const sum = { faces: 0, triangles: 0, area: 0, all: 0 };
  for (const view of views) {
    const mesh = state.facesOf === "game" ? view.gameMesh : view.sourceMesh;
    if (!mesh?.visibility) continue;
    const found = unseenFaces(mesh, state.threshold);
    sum.faces += found.faces.length;
    sum.triangles += found.triangles;
    sum.area += found.area;
    sum.all += found.allArea;
  }
  return {
    faces: sum.faces,
    triangles: sum.triangles,
    share: sum.all ? sum.area / sum.all : 0,
  };
}
