import type { Ref } from "vue";
import { onBeforeUnmount, onMounted, reactive, ref, watch } from "vue";
import type { Trial, TrialName } from "../../core/collide/methods/trials";
import type { Facts } from "./facts";
import type { Drawn, FromYard, Steps, ToYard, YardState } from "./messages";

/** How many copies can stand there, and in which lights. */
export const COPIES = [1, 9, 25, 100] as const;
export const LIGHTS = ["day", "dusk", "lamps"] as const;

const KEPT = "arnik.yard";
const PLAIN: YardState = {
  copies: 1,
  level: -1,
  light: "day",
  wrongGreen: false,
  hulls: false,
  wire: false,
  walking: false,
};

/** How the yard was looked at last, as far as that is sound. @param kept JSON, or null */
export function recalled(kept: string | null): YardState {
  const state = { ...PLAIN };
  let given: Partial<Record<keyof YardState, unknown>>;
  try {
    given = (JSON.parse(kept ?? "{}") ?? {}) as typeof given;
  } catch {
    return state;
  }
  if (COPIES.some((copies) => copies === given.copies))
    state.copies = given.copies as number;
  const light = LIGHTS.find((each) => each === given.light);
  if (light) state.light = light;
  // What is looked at for once is not kept.
  for (const key of ["hulls", "wire", "walking"] as const)
    state[key] = given[key] === true;
  return state;
}

/**
 * The worker that draws the yard: what goes to it, and what it says.
 * In one piece: all of it shares the worker and what the page shows of it.
 */
export function useYard(canvas: Ref<HTMLCanvasElement | null>) {
  const state = reactive(recalled(localStorage.getItem(KEPT)));
  const opened = ref<{
    name: string;
    names: string[];
    facts: Facts;
  } | null>(null);
  const drawn = ref<Drawn | null>(null);
  const played = ref<Trial | null>(null);
  const trouble = ref("");
  const busy = ref("");
  const held = new Set<string>();
  let worker: Worker | null = null;
  let watcher: ResizeObserver | null = null;
  const post = (message: ToYard, transfer: Transferable[] = []) =>
    worker?.postMessage(message, transfer);

  onMounted(() => {
    const surface = canvas.value!;
    worker = new Worker(new URL("./yard.worker.ts", import.meta.url), {
      type: "module",
    });
    worker.onmessage = ({ data }: MessageEvent<FromYard>) => receive(data);
    worker.onerror = () =>
      (trouble.value =
        "the view could not start: this browser lacks WebGL 2 in workers");
    const drawing = surface.transferControlToOffscreen();
    post({ kind: "start", canvas: drawing }, [drawing]);
    const measure = () =>
      post({
        kind: "size",
        width: surface.clientWidth,
        height: surface.clientHeight,
        ratio: Math.min(2, devicePixelRatio),
      });
    watcher = new ResizeObserver(measure);
    watcher.observe(surface);
    measure();
    post({ kind: "state", state: { ...state } });
  });
  onBeforeUnmount(() => {
    watcher?.disconnect();
    worker?.terminate();
  });
  watch(state, () => {
    localStorage.setItem(KEPT, JSON.stringify(state));
    post({ kind: "state", state: { ...state } });
  });

  function receive(message: FromYard) {
    switch (message.kind) {
      case "opened":
        busy.value = "";
        opened.value = message;
        played.value = null;
        return;
      case "failed":
        busy.value = "";
        trouble.value = message.message;
        return;
      case "drawn":
        drawn.value = message.drawn;
        return;
      case "played":
        busy.value = "";
        if (message.over) played.value = message.trial;
    }
  }
  async function open(files: readonly File[]) {
    if (!files.length) return;
    trouble.value = "";
    busy.value = `opening ${files[0].name}`;
    const given = await Promise.all(
      files.map(async (file) => ({
        name: file.name,
        bytes: await file.arrayBuffer(),
      })),
    );
    state.level = -1;
    post(
      { kind: "open", files: given },
      given.map(({ bytes }) => bytes),
    );
  }
  /** Shows another one of the files that came together. */
  function choose(name: string) {
    busy.value = `opening ${name}`;
    post({ kind: "choose", name });
  }
  /** Opens the archive that a job of Ship left. */
  async function fetchJob(job: number) {
    busy.value = "fetching the delivery";
    const answer = await fetch(`/api/jobs/${job}/file`).catch(() => null);
    if (!answer?.ok) {
      busy.value = "";
      trouble.value = "this delivery is no longer kept: ship it again";
      return;
    }
    const told = answer.headers.get("content-disposition") ?? "";
    const name = decodeURIComponent(told.split("''")[1] ?? "delivery.zip");
    await open([new File([await answer.blob()], name)]);
  }
  function press(event: PointerEvent) {
    (event.target as HTMLElement).setPointerCapture(event.pointerId);
  }
  function move(event: PointerEvent) {
    if (!event.buttons) return;
    post({
      kind: "drag",
      x: event.movementX,
      y: event.movementY,
      pan: event.buttons !== 1,
    });
  }
  const wheel = (event: WheelEvent) => post({ kind: "zoom", by: event.deltaY });
  function tellSteps() {
    const on = (...keys: string[]) => keys.some((key) => held.has(key));
    const steps: Steps = {
      forward: Number(on("w", "arrowup")) - Number(on("s", "arrowdown")),
      side: Number(on("d", "arrowright")) - Number(on("a", "arrowleft")),
      fast: on("shift"),
    };
    post({ kind: "steps", steps });
  }
  function key(event: KeyboardEvent, down: boolean) {
    const name = event.key.toLowerCase();
    if (event.ctrlKey || event.altKey || event.metaKey) return;
    if (name === "f" && down) {
      post({ kind: "frame" });
      return;
    }
    if (!state.walking) {
      // Without a mouse arrows turn.
      const [x, y] = {
        arrowleft: [24, 0],
        arrowright: [-24, 0],
        arrowup: [0, 24],
        arrowdown: [0, -24],
      }[name] ?? [0, 0];
      if (down && (x || y)) {
        post({ kind: "drag", x, y, pan: false });
        event.preventDefault();
      }
      return;
    }
    if (!/^([wasd]|arrow.*|shift)$/.test(name)) return;
    event.preventDefault();
    if (down) held.add(name);
    else held.delete(name);
    tellSteps();
  }
  /** Nobody holds a key any more. */
  function stand() {
    held.clear();
    tellSteps();
  }
  function play(trial: TrialName) {
    trouble.value = "";
    busy.value = "reckoning how it falls";
    post({ kind: "play", trial });
  }
  function stop() {
    played.value = null;
    post({ kind: "stop" });
  }
  return {
    ...{ state, opened, drawn, played, trouble, busy },
    ...{ open, choose, fetchJob, press, move, wheel, key, stand, play, stop },
  };
}
