import { bakeRows } from "./bake/methods/rows";
import { lookFrom } from "./survey/methods/unseen";
import * as bake from "./bake/index";
import * as collide from "./collide/index";
import * as edges from "./edges/index";
import { ArnikError } from "./base/errors";
import * as finish from "./finish/index";
import * as intake from "./intake/index";
import type { Operation } from "./asset/operation";
import * as reduce from "./reduce/index";
import * as ship from "./ship/index";
import * as survey from "./survey/index";
import * as unwrap from "./unwrap/index";

/** Every operation there is, in the order of the route. */
export const OPERATIONS: readonly Operation[] = [
  intake,
  survey,
  reduce,
  edges,
  unwrap,
  bake,
  finish,
  collide,
  ship,
].flatMap((stage) => Object.values(stage) as unknown as Operation[]);

/** What workers can run, by name. */
export const KERNELS: Record<string, (shared: never, slice: never) => unknown> =
  {
    "bake/rows": bakeRows,
    "survey/unseen": lookFrom,
  };

/** @throws ArnikError for an id that no operation has */
export function findOperation(id: string): Operation {
  const found = OPERATIONS.find((operation) => operation.id === id);
  if (!found)
    throw new ArnikError(
      `there is no operation "${id}": \`arnik operations\` lists them`,
    );
  return found;
}
