import type { TrialName, Trial } from "../../core/collide/methods/trials";
import type { Facts } from "./facts";

/** How the yard is looked at. */
export interface YardState {
  /** How often the delivery stands there, in rows farther and farther away. */
  copies: number;
  /** The level that is drawn; −1 for the one that its share of the screen asks for. */
  level: number;
  light: "day" | "dusk" | "lamps";
  /** Shows the green of normal maps turned over, to learn the look of it. */
  wrongGreen: boolean;
  hulls: boolean;
  wire: boolean;
  /** Whether one walks at eye height, or turns about what stands there. */
  walking: boolean;
}

/** What moves a walker, each −1, 0 or 1. */
export interface Steps {
  forward: number;
  side: number;
  fast: boolean;
}

export type ToYard =
  | { kind: "start"; canvas: OffscreenCanvas }
  | { kind: "size"; width: number; height: number; ratio: number }
  | { kind: "open"; files: { name: string; bytes: ArrayBuffer }[] }
  /** Another one of the files that were opened together, by its name. */
  | { kind: "choose"; name: string }
  | { kind: "state"; state: YardState }
  | { kind: "drag"; x: number; y: number; pan: boolean }
  | { kind: "zoom"; by: number }
  | { kind: "steps"; steps: Steps }
  | { kind: "frame" }
  | { kind: "play"; trial: TrialName }
  | { kind: "stop" };

export type FromYard =
  | { kind: "opened"; name: string; names: string[]; facts: Facts }
  | { kind: "failed"; message: string }
  | { kind: "drawn"; drawn: Drawn }
  | { kind: "played"; trial: Trial; over: boolean };

/** What the last picture took. */
export interface Drawn {
  /** Draw calls of the delivery, shadows included, and of the yard about it. */
  calls: number;
  scenery: number;
  triangles: number;
  /** How many copies are drawn at each level. */
  byLevel: number[];
  milliseconds: number;
}
