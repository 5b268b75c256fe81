import type { Asset } from "./asset/asset";
import { keepMarks } from "./asset/carry";
import { withLightStandIns } from "./asset/light";
import { withSettledSources } from "./asset/settled";
import { followRepeats } from "./asset/repeats";
import type { Input } from "./asset/stale";
import { inputNames, inputsOf, stageStates } from "./asset/stale";
import { toDocument } from "./asset/document";
import type { AssetDocument } from "./asset/document";
import type { Stage } from "./asset/stages";
import { findOperation } from "./operations";
import type { Operation, OperationResult } from "./asset/operation";
import type { OperationContext } from "./asset/operation";
import { readOptions } from "./asset/operation";
import { spanOf } from "./base/context";

/**
 * Runs an operation with checked options and, where its result is the stage's, keeps that result with the
 * fingerprints of what it was made from.
 */
export async function runOperation<O extends object>(
  operation: Operation<O>,
  asset: Asset,
  raw: unknown,
  context: OperationContext,
): Promise<OperationResult> {
  const options = readOptions(operation, raw);
  const result = await operation.run(asset, options, context);
  result.asset = withSettledSources(
    withLightStandIns(
      followRepeats(keepMarks(result.asset, asset), asset),
      asset,
    ),
    asset,
    context,
  );
  result.asset = withFollowedReports(result.asset, asset);
  if (!operation.makesResult && !operation.keepsReport && !operation.updates)
    return result;
  const document = describe(result.asset);
  if (operation.keepsReport)
    return {
      ...result,
      asset: {
        ...result.asset,
        reports: {
          ...result.asset.reports,
          [operation.id]: {
            operation: operation.id,
            options: { ...options } as Record<string, unknown>,
            report: result.report,
            headline: result.headline,
            madeFrom: inputsOf(inputNames(operation, options), document),
          },
        },
      },
    };
  const redone = redoneBy(operation, options, asset);
  const kept = stageStates(describe(asset)).flatMap(({ stage, state }) =>
    operation.preserves?.includes(stage) && state === "current"
      ? [
          [
            stage,
            {
              ...asset.results[stage],
              madeFrom: inputsOf(
                Object.keys(asset.results[stage]!.madeFrom) as Input[],
                document,
              ),
            },
          ],
        ]
      : [],
  );
  return {
    ...result,
    asset: {
      ...result.asset,
      results: {
        ...result.asset.results,
        ...Object.fromEntries(kept),
        [operation.stage]: {
          ...redone,
          report: result.report,
          headline: result.headline,
          madeFrom: inputsOf(madeFromNames(redone), document),
          ...(operation.tellsOf && {
            toldOf: inputsOf(operation.tellsOf, document),
          }),
        },
      },
    },
  };
}

/** Kept reports that an operation let follow what it did are of what is there now. */
function withFollowedReports(asset: Asset, before: Asset): Asset {
  const followed = Object.entries(asset.reports).filter(
    ([id, kept]) => before.reports[id] && kept !== before.reports[id],
  );
  if (!followed.length) return asset;
  const document = describe(asset);
  const renewed = followed.map(([id, kept]) => [
    id,
    {
      ...kept,
      madeFrom: inputsOf(Object.keys(kept.madeFrom) as Input[], document),
    },
  ]);
  return {
    ...asset,
    reports: { ...asset.reports, ...Object.fromEntries(renewed) },
  };
}

/** What will be redone in the stage of an operation that has just run: itself, or what it only refreshes. */
function redoneBy<O extends object>(
  operation: Operation<O>,
  options: O,
  asset: Asset,
): { operation: string; options: Record<string, unknown> } {
  const plain = new operation.Options() as Record<string, unknown>;
  const own = { ...options } as Record<string, unknown>;
  for (const name of operation.forOnce ?? []) own[name] = plain[name];
  if (!operation.updates) return { operation: operation.id, options: own };
  const kept = asset.results[operation.stage] ?? {
    operation: operation.updates,
    options: {},
  };
  if (!operation.passesOptions) return kept;
  const known = new (findOperation(kept.operation).Options)();
  const handed = Object.entries(own).filter(([name]) => name in known);
  return {
    ...kept,
    options: { ...kept.options, ...Object.fromEntries(handed) },
  };
}

/** What a result hangs on that comes of an operation with options. */
function madeFromNames({
  operation: id,
  options,
}: {
  operation: string;
  options: Record<string, unknown>;
}): readonly Input[] {
  const operation = findOperation(id);
  // Options of a result that was kept long ago are taken as they are: nothing runs by them here.
  return inputNames(operation, { ...new operation.Options(), ...options });
}

/** The document of an asset without keeping its streams. */
export function describe(asset: Asset): AssetDocument {
  return toDocument(asset, () => {});
}

/** Stages whose result has gone stale, in the order they have to be redone. */
export function staleStages(asset: Asset): Stage[] {
  return stageStates(describe(asset))
    .filter(({ state }) => state === "stale")
    .map(({ stage }) => stage);
}

/**
 * Runs every stale stage again with the options it had, in order; a stage that only becomes stale by an
 * earlier one is caught in the same pass.
 */
export async function bringUpToDate(
  asset: Asset,
  context: OperationContext,
): Promise<{
  asset: Asset;
  redone: Stage[];
  files: NonNullable<OperationResult["files"]>;
}> {
  const redone: Stage[] = [];
  const files: NonNullable<OperationResult["files"]> = [];
  let at = asset;
  for (;;) {
    // A stage that reads what a later one makes (edges hard at island borders) is redone once more after that.
    const next = staleStages(at).find(
      (stage) => redone.filter((each) => each === stage).length < 2,
    );
    if (!next) return { asset: at, redone: [...new Set(redone)], files };
    const { operation, options } = at.results[next]!;
    const from = Math.min(0.95, redone.length / 9);
    context.progress(from, `bringing ${next} up to date`);
    const result = await runOperation(
      findOperation(operation),
      at,
      options,
      spanOf(context, from, Math.min(1, from + 0.125)),
    );
    files.push(...(result.files ?? []));
    at = result.asset;
    redone.push(next);
  }
}
