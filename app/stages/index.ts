import type { Stage } from "../../core/asset/stages";
import type { BenchPlan } from "../shared/bench";
import { bake } from "./bake/bench";
import { collide } from "./collide/bench";
import { edges } from "./edges/bench";
import { finish } from "./finish/bench";
import { intake } from "./intake/bench";
import { reduce } from "./reduce/bench";
import { ship } from "./ship/bench";
import { survey } from "./survey/bench";
import { unwrap } from "./unwrap/bench";

export const BENCHES: Record<Stage, BenchPlan> = {
  intake,
  survey,
  reduce,
  edges,
  unwrap,
  bake,
  finish,
  collide,
  ship,
};
