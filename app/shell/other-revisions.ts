import type { AssetDocument } from "../../core/asset/document";
import type { ToView } from "../shared/messages";
import { plain } from "../shared/plain";
import { call } from "../stores/api";
import { useView } from "../stores/view";
import { useWorkshop } from "../stores/workshop";

/** Hands the view another revision for a side of the divider, whenever one is wanted there. */
export function useOtherRevisions(post: (message: ToView) => void): void {
  const view = useView();
  const workshop = useWorkshop();
  for (const [side, wanted] of [
    ["left", () => view.other?.revision],
    ["right", () => view.against?.revision],
  ] as const)
    watch(
      wanted,
      async (revision) => {
        let document: AssetDocument | null = null;
        if (revision !== undefined)
          try {
            ({ document } = await call<{ document: AssetDocument }>(
              "GET",
              `assets/${workshop.asset!.id}/revisions/${revision}`,
            ));
          } catch (error) {
            workshop.fail(error);
            view.stopComparing();
          }
        if (wanted() === revision)
          post({ kind: "other", side, document: document && plain(document) });
      },
      { immediate: true, flush: "post" },
    );
}
