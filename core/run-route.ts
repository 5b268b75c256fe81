import type { Asset } from "./asset/asset";
import { chosenParts } from "./asset/asset";
import { profileOf } from "./asset/profile";
import { mapParts } from "./asset/parts";
import { stageStates } from "./asset/stale";
import type { Stage } from "./asset/stages";
import { STAGES, STAGE_TITLES } from "./asset/stages";
import { ArnikError } from "./base/errors";
import type { OperationResult } from "./asset/operation";
import type { OperationContext } from "./asset/operation";
import { spanOf } from "./base/context";
import { findOperation } from "./operations";
import { describe, runOperation } from "./route";

/** What a stage does on the way from a source to a delivery. Intake and Finish are a person's own. */
export const ROUTE: Partial<Record<Stage, string>> = {
  survey: "survey/count",
  reduce: "reduce/to-budget",
  edges: "edges/hard-by-angle",
  unwrap: "unwrap/unwrap",
  bake: "bake/maps",
  collide: "collide/hulls",
  ship: "ship/archive",
};

/** How long stages take, one against another. */
const WEIGHTS: Partial<Record<Stage, number>> = {
  survey: 1,
  reduce: 5,
  unwrap: 3,
  bake: 9,
};
const weightOf = (stage: Stage) => WEIGHTS[stage] ?? 0.5;

/** A stage that is to be run: as it was before, or as it goes by itself. */
export interface RouteStep {
  stage: Stage;
  operation: string;
  options: object;
}

/** Why a stage is passed over, or null where it has what it needs. */
function missing(asset: Asset, stage: Stage): string | null {
  const { parts } = asset;
  const source = parts.some((part) => part.source);
  const game = parts.some((part) => part.game);
  if (stage === "survey" || stage === "reduce") {
    if (!source) return "there is no source mesh";
    const open = parts.some(({ game: own, locked }) => !own && !locked);
    return stage === "reduce" && !asset.results.reduce && !open
      ? "every part came with a game mesh, or is locked"
      : null;
  }
  if (stage === "collide" || stage === "ship")
    return game ? null : "there is no game mesh";
  if (!game) return "there is no game mesh";
  const laid = parts.every(({ game: own }) => !own || own.uvs);
  if (
    stage === "unwrap" &&
    laid &&
    !asset.results.unwrap &&
    !asset.results.reduce
  )
    return "the game meshes came with UVs";
  if (stage === "bake" && !source) return "there is no source mesh";
  return null;
}

/** The next stage that has something to do after `after`, and the stages passed over until there. */
export function nextStep(
  asset: Asset,
  after: Stage | null,
): { step: RouteStep | null; passed: { stage: Stage; why: string }[] } {
  const standing = stageStates(describe(asset));
  const passed: { stage: Stage; why: string }[] = [];
  for (const stage of STAGES.slice(after ? STAGES.indexOf(after) + 1 : 0)) {
    const { state } = standing.find((each) => each.stage === stage)!;
    const known = asset.results[stage];
    if (state === "current" || (!known && !ROUTE[stage])) continue;
    const why = missing(asset, stage);
    if (why) passed.push({ stage, why });
    else
      return {
        step: known
          ? { stage, operation: known.operation, options: known.options }
          : {
              stage,
              operation: ROUTE[stage]!,
              options:
                stage === "ship" ? (profileOf(asset.brief).ship ?? {}) : {},
            },
        passed,
      };
  }
  return { step: null, passed };
}

/** What the stages after one weigh that are not current. */
function left(asset: Asset, after: Stage | null): number {
  const from = after ? STAGES.indexOf(after) + 1 : 0;
  return stageStates(describe(asset))
    .slice(from)
    .filter(({ stage, state }) => state !== "current" && ROUTE[stage])
    .reduce((sum, { stage }) => sum + weightOf(stage), 0);
}

/**
 * Runs an operation of the route. Reducing for the first time keeps game meshes that came along.
 */
export async function runStep(
  asset: Asset,
  { stage, operation, options }: RouteStep,
  context: OperationContext,
): Promise<OperationResult> {
  const own =
    stage === "reduce" && !asset.results.reduce
      ? asset.parts.filter(({ game }) => game).map(({ name }) => name)
      : [];
  const kept = [...chosenParts(asset, [])].filter((name) => own.includes(name));
  const locking = (of: Asset, locked: boolean) =>
    mapParts(of, (part) =>
      kept.includes(part.name) ? { ...part, locked } : part,
    );
  const result = await runOperation(
    findOperation(operation),
    locking(asset, true),
    options,
    context,
  );
  return { ...result, asset: locking(result.asset, false) };
}

/**
 * Takes an asset through all stages that have what they need, with the brief's figures: what is empty is made, what
 * is stale is redone with the options it had, what is current is left.
 * @param tell is told of each stage before and after it
 * @param options what differs from the defaults of stages that are made for the first time
 * @throws ArnikError where a stage can't keep its promise; what was made before is there
 */
export async function runRoute(
  asset: Asset,
  context: OperationContext,
  tell: {
    begins(stage: Stage): void;
    made(
      result: OperationResult,
      step: RouteStep,
      last: boolean,
    ): Promise<void>;
  },
  options: Partial<Record<Stage, object>> = {},
): Promise<{
  asset: Asset;
  ran: Stage[];
  passed: { stage: Stage; why: string }[];
}> {
  const ran: Stage[] = [];
  const passed: { stage: Stage; why: string }[] = [];
  let at = asset;
  let after: Stage | null = null;
  const total = left(at, after) || 1;
  for (;;) {
    const next = nextStep(at, after);
    passed.push(...next.passed);
    const { step } = next;
    if (!step) return { asset: at, ran, passed };
    const title = STAGE_TITLES[step.stage];
    tell.begins(step.stage);
    const from = (total - left(at, after)) / total;
    const span = spanOf(context, from, from + weightOf(step.stage) / total);
    const own = at.results[step.stage] ? {} : options[step.stage];
    const as = { ...step, options: { ...step.options, ...own } };
    const result = await runStep(at, as, {
      ...span,
      progress: (share, what) => span.progress(share, `${title}: ${what}`),
    });
    at = result.asset;
    after = step.stage;
    ran.push(step.stage);
    const { failed } = result.report;
    const last = typeof failed === "string" || !nextStep(at, after).step;
    await tell.made(result, step, last);
    if (typeof failed === "string")
      throw new ArnikError(`${title} stopped the route: ${failed}`);
  }
}
