import { useAnswers } from "../../stores/answers";
import { useView } from "../../stores/view";
import { useWorkshop } from "../../stores/workshop";

export type SeamWish = "seam" | "joined" | "no seam" | "as found";

/** Seams along what is chosen or traced. @param clear tells the view that what was traced is done with */
export function useSetSeams(clear: () => void) {
  const view = useView();
  const answers = useAnswers();
  const workshop = useWorkshop();
  const edges = computed(() => [
    ...new Set([...view.edges, ...(answers.trace?.edges ?? [])]),
  ]);
  const faces = computed(
    () => view.facesOf === "game" && view.chosen.faces > 0,
  );
  const ready = computed(
    () => (edges.value.length > 0 || faces.value) && !workshop.locked,
  );
  async function wish(to: SeamWish) {
    if (!ready.value) return;
    await workshop.run("unwrap/set-seams", {
      edges: edges.value,
      ...(edges.value.length
        ? {}
        : { faces: [...view.faceList], mesh: "game" }),
      to,
    });
    view.edges = [];
    view.seams = true;
    clear();
  }
  return { edges, faces, ready, wish };
}
