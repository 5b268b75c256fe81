import type { Landing } from "../shared/view-types";
import type { FromView, ToView } from "../shared/messages";
import { useHullHand } from "../stages/collide/hull-hand";
import { useAnswers } from "../stores/answers";
import { useView } from "../stores/view";
import { viewEvents } from "../stores/view-events";
import { useWorkshop } from "../stores/workshop";
import type { Portrayed } from "./portraits";
import { usePortraits } from "./portraits";

/** What the table itself does with what its worker says. */
interface TableHands {
  /** A dot of a seam was taken hold of, or let go. */
  held(point: Extract<FromView, { kind: "held" }>["point"]): void;
  /** A handle of hulls was taken hold of, or none lay there. */
  heldHull(held: boolean): void;
  /** A stroke of the brush is done. */
  stroke(
    faces: Extract<FromView, { kind: "settled" }>["faces"],
    of: Extract<FromView, { kind: "settled" }>["of"],
  ): void;
}

/**
 * The worker that draws: what goes to it, and what it says goes to where it belongs.
 * In one piece: all of it shares the worker and what was last sent to it.
 */
export function useTableLink(hands: TableHands) {
  const view = useView();
  const answers = useAnswers();
  const workshop = useWorkshop();
  const loading = ref<{ done: number; total: number; what: string } | null>({
    done: 0,
    total: 1,
    what: "",
  });
  const failed = ref("");
  /** Islands that were let go off the sheet: they wait for a word. */
  const offSheet = ref<{ x: number; y: number; landing: Landing } | null>(null);
  let worker: Worker | null = null;
  let pictured: ((png: ArrayBuffer) => void) | null = null;
  /** Who waits for pictures of the meshes. */
  let portrayed: Portrayed | null = null;
  const post = (message: ToView) => worker?.postMessage(message);
  const hullHand = useHullHand(() =>
    post({ kind: "hull", what: "back", x: 0, y: 0, free: false }),
  );

  /** Starts the worker on a canvas, which is its own from then on. */
  function start(canvas: HTMLCanvasElement) {
    worker = new Worker(new URL("../view/table.worker.ts", import.meta.url), {
      type: "module",
    });
    worker.onmessage = (event: MessageEvent<FromView>) => receive(event.data);
    worker.onerror = () =>
      (failed.value =
        "the view could not start: this browser lacks WebGL 2 in workers");
    const surface = canvas.transferControlToOffscreen();
    worker.postMessage({ kind: "start", canvas: surface } satisfies ToView, [
      surface,
    ]);
  }
  onBeforeUnmount(() => worker?.terminate());

  function receive(message: FromView) {
    switch (message.kind) {
      case "loading":
        loading.value = message;
        return;
      case "ready":
        loading.value = null;
        viewEvents.emit("loaded");
        return;
      case "failed":
        failed.value = message.message;
        portrayed?.(null);
        return;
      case "camera":
        view.camera = message.camera;
        return;
      case "picked":
        if (message.part) view.toggleSelected(message.part, message.add);
        else if (!message.add) view.selected = [];
        return;
      case "picked-hull":
        view.chooseHull(message.name, message.add);
        return;
      case "hull-held":
        hands.heldHull(message.held);
        return;
      case "hull-over":
        answers.overHandle = message.over;
        return;
      case "hull-drag":
        answers.hullDrag = message.text;
        return;
      case "dropped":
        answers.dropped = message.trial && message;
        return;
      case "hull-moved":
        void hullHand.moved(message.by);
        return;
      case "hull-cut":
        void hullHand.cut(message.normal, message.point);
        return;
      case "spot":
        if (message.spot) void hullHand.place(message.spot);
        return;
      case "edge":
        if (message.edge) toggleEdge(message.edge);
        return;
      case "edges":
        view.edges = message.edges;
        return;
      case "faces":
        view.hearFaces(message.faces, message.of, message.figures);
        return;
      case "preview":
        answers.preview = message;
        return;
      case "bake-trial":
        answers.bakeTrial = message;
        return;
      case "facts":
        answers.facts = message.facts;
        return;
      case "trace":
        answers.trace = message.points || message.edges.length ? message : null;
        answers.traceRefused = message.refused;
        if (!answers.trace) answers.tried = null;
        return;
      case "held":
        hands.held(message.point);
        return;
      case "tried":
        answers.tried = message;
        return;
      case "dragged":
        if (message.landing.off) offSheet.value = message;
        else moveIslands(message);
        return;
      case "unseen":
        answers.unseen = message;
        return;
      case "settled":
        hands.stroke(message.faces, message.of);
        return;
      case "outlines":
        answers.outlines = message.pictures;
        return;
      case "picture":
        pictured?.(message.png);
        pictured = null;
        return;
      case "portrait":
        portrayed?.(message);
    }
  }

  function moveIslands({ x, y }: { x: number; y: number }) {
    offSheet.value = null;
    void workshop.run("unwrap/move", {
      faces: [...view.faceList],
      mesh: "game",
      x,
      y,
    });
  }

  function toggleEdge(edge: string) {
    if (view.facesOf !== "game") view.choose({}, "game");
    view.edges = view.edges.includes(edge)
      ? view.edges.filter((each) => each !== edge)
      : [...view.edges, edge];
  }

  const picture = () =>
    new Promise<ArrayBuffer>((resolve) => {
      pictured = resolve;
      post({ kind: "picture" });
    });

  usePortraits({
    ready: () => worker !== null && !loading.value && !failed.value,
    ask: (shots, parts, got) => {
      portrayed = got;
      post({ kind: "portraits", shots, parts });
    },
  });

  return { post, start, loading, failed, offSheet, moveIslands, picture };
}
