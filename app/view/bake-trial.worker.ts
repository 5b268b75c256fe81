import type { Asset } from "../../core/asset/asset";
import { fromDocument } from "../../core/asset/read-document";
import type { BakeOptions } from "../../core/bake/methods/bake-options";
import type { Target } from "../../core/bake/methods/targets";
import {
  isHeavy,
  trialBake,
  trialWidths,
  withLighterSources,
} from "../../core/bake/methods/trial-bake";
import { wantedOf } from "../../core/bake/methods/wanted";
import { CancelledError } from "../../core/base/errors";
import type { BakeTrialInput, BakeTrialOutput } from "./bake-trial";
import { StreamLoader } from "./stream-loader";
import { streamsIn, trialDocument } from "./trial-document";

/** Up to this width lighter sources are good enough. */
const LIGHT_UP_TO = 512;

/** Options that a trial is not told: it is of normals, of what is chosen, and as fine as it gets. */
const OWN = {
  ...{ normal: true, ao: false, also: [], fraction: "1" },
  ...{ parts: [], sheets: "" },
};

const loader = new StreamLoader();
let newest = 0;
/** What was made of the sources last, and of which: for another setting it is not made anew. */
let kept = { of: "", targets: new Map<string, Target>() };
const tell = (output: BakeTrialOutput, pixels: Transferable[] = []) =>
  postMessage(output, { transfer: pixels });

/** Bakes one trial from coarse to fine, until a newer one is wanted. */
async function run(input: BakeTrialInput): Promise<void> {
  const { turn, document, options, parts } = input;
  const start = performance.now();
  const pause = async () => {
    await new Promise((resolve) => setTimeout(resolve, 0));
    if (turn !== newest) throw new CancelledError();
  };
  loader.keepOnly(streamsIn(document));
  const given = trialDocument(document, options, parts);
  const bytes = new Map<string, Uint8Array>();
  await Promise.all(
    [...streamsIn(given.document)].map(async (hash) =>
      bytes.set(hash, await loader.bytes(hash)),
    ),
  );
  await pause();
  const asset = fromDocument(given.document, (hash) => bytes.get(hash)!);
  const wanted = {
    ...wantedOf(asset, { ...options, ...OWN } as unknown as BakeOptions),
    greenUp: true,
  };
  const show = async (
    of: Asset,
    widths: readonly number[],
    made: Map<string, Target>,
    light: boolean,
  ) => {
    for await (const { maps, ...figures } of trialBake(
      ...([of, wanted, given.only, widths, made, pause] as const),
    ))
      tell(
        {
          ...{ kind: "maps", turn, maps },
          figures: {
            ...figures,
            light: light || given.light,
            last: figures.last && !light,
            full: wanted.width,
            milliseconds: performance.now() - start,
          },
        },
        maps.map(({ pixels }) => pixels.buffer as ArrayBuffer),
      );
  };
  const of = JSON.stringify(given.document.parts);
  if (of !== kept.of) kept = { of, targets: new Map() };
  const widths = trialWidths(wanted.width);
  if (kept.targets.size || !isHeavy(asset))
    return show(asset, widths, kept.targets, false);
  const first = widths.filter((width) => width <= LIGHT_UP_TO);
  await show(
    withLighterSources(asset),
    first.length ? first : widths.slice(0, 1),
    new Map(),
    true,
  );
  await show(
    asset,
    widths.slice(Math.min(first.length, widths.length - 1)),
    kept.targets,
    false,
  );
}

self.onmessage = ({ data }: MessageEvent<BakeTrialInput>) => {
  newest = data.turn;
  run(data).catch((error: unknown) => {
    if (error instanceof CancelledError) return;
    const message = error instanceof Error ? error.message : String(error);
    tell({ kind: "failed", turn: data.turn, message });
  });
};
