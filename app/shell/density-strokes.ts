import { useTrials } from "../stores/trials";
import { useView } from "../stores/view";
import { useWorkshop } from "../stores/workshop";

/** Makes strokes of the density brush density, one after the other. @returns what takes a stroke that has ended */
export function useDensityStrokes() {
  const view = useView();
  const workshop = useWorkshop();
  /** Strokes of the density brush that wait until the one before them is density. */
  const strokes: object[] = [];
  function paintDensity(faces: Record<string, string>, of: "source" | "game") {
    const { density } = useTrials();
    view.clearFaces();
    const list = Object.entries(faces).map(([part, own]) => `${part}:${own}`);
    if (!density || !list.length) return;
    strokes.push({ ...density, faces: list, mesh: of });
    void nextStroke();
  }
  async function nextStroke() {
    while (strokes.length && !workshop.locked)
      await workshop.run("reduce/paint-density", strokes.shift()!);
  }
  watch(
    () => workshop.locked,
    (locked) => {
      if (!locked) void nextStroke();
    },
  );
  return paintDensity;
}
