import type { Recording } from "../../core/collide/methods/drop-test";
import { recordDrop } from "../../core/collide/methods/drop-test";
import { DropPlay } from "../view/drop-play";
import type { FromYard, Steps, ToYard } from "./messages";
import type { Delivery } from "./open-delivery";
import { glbsOf, openDelivery } from "./open-delivery";
import { YardScene } from "./yard-scene";

/** Slope and friction of the drop test, as it is by itself. */
const DROP = { slope: 15, friction: 0.6 };

let yard: YardScene | null = null;
type Glb = ReturnType<typeof glbsOf>[number];
let glbs: Glb[] = [];
let delivery: Delivery | null = null;
let play: DropPlay | null = null;
let steps: Steps = { forward: 0, side: 0, fast: false };
let walking = false;
let wanted = false;
let last = 0;
/** Counts what was asked for, so that an older answer gives way. */
let turn = 0;
let height = 1;
let told = false;
const tell = (message: FromYard) => postMessage(message);

/** Draws once, and on as long as something moves. */
function draw(): void {
  if (wanted || !yard) return;
  wanted = true;
  requestAnimationFrame((now) => {
    wanted = false;
    if (!yard) return;
    const seconds = Math.min(0.1, (now - last) / 1000);
    last = now;
    const walks = walking && (steps.forward !== 0 || steps.side !== 0);
    if (walks) yard.walker.walk(steps, seconds);
    const drawn = yard.draw();
    if (drawn) tell({ kind: "drawn", drawn });
    if (yard.isMoving || walks) draw();
    else if (play && !told) {
      told = true;
      tell({ kind: "played", trial: play.recording.trial, over: true });
    }
  });
}

/** Opens one of the files that came together. @param files asked only when it is their turn */
async function open(files: () => Glb[], wanted?: string) {
  const mine = ++turn;
  try {
    const all = files();
    const chosen = all.find(({ name }) => name === wanted) ?? all[0];
    const opened = await openDelivery(chosen);
    if (mine !== turn) return;
    glbs = all;
    delivery = opened;
    play = null;
    yard?.show(opened);
    tell({
      kind: "opened",
      name: opened.name,
      names: all.map(({ name }) => name),
      facts: opened.facts,
    });
  } catch (error) {
    if (mine !== turn) return;
    tell({
      kind: "failed",
      message: error instanceof Error ? error.message : String(error),
    });
  }
  draw();
}

async function drop(trial: Parameters<typeof recordDrop>[2]) {
  const mine = ++turn;
  const hulls = (delivery?.hulls ?? []).filter(({ kind }) => kind !== "ground");
  if (!hulls.length) {
    tell({ kind: "failed", message: "there are no hulls in it to drop" });
    return;
  }
  let recording: Recording;
  try {
    recording = await recordDrop(hulls, DROP, trial, () => {});
  } catch (error) {
    tell({
      kind: "failed",
      message: `it could not be dropped: ${String(error)}`,
    });
    return;
  }
  if (mine !== turn) return;
  const size = delivery!.box.max.distanceTo(delivery!.box.min);
  play = new DropPlay(recording, size);
  told = false;
  yard?.playing(play);
  tell({ kind: "played", trial: recording.trial, over: false });
  draw();
}

self.onmessage = ({ data }: MessageEvent<ToYard>) => {
  switch (data.kind) {
    case "start":
      yard = new YardScene(data.canvas);
      break;
    case "size":
      height = Math.min(data.width, data.height);
      yard?.size(data.width, data.height, data.ratio);
      break;
    case "open":
      void open(() => glbsOf(data.files));
      return;
    case "choose":
      void open(() => glbs, data.name);
      return;
    case "state":
      walking = data.state.walking;
      yard?.set(data.state);
      break;
    case "drag":
      if (walking) yard?.walker.turn(data.x, data.y);
      else yard?.orbit.move(data.pan ? "pan" : "orbit", data.x, data.y, height);
      break;
    case "zoom":
      if (!walking) yard?.orbit.zoom(data.by, 0, 0, height);
      break;
    case "steps":
      ({ steps } = data);
      last = performance.now();
      break;
    case "frame":
      yard?.frame();
      break;
    case "play":
      void drop(data.trial);
      return;
    case "stop":
      turn++;
      play = null;
      yard?.playing(null);
  }
  draw();
};
