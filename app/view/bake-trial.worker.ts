import { fromDocument } from "../../core/asset/read-document";
import type { BakeOptions } from "../../core/bake/methods/bake-options";
import { trialBake, trialWidths } from "../../core/bake/methods/trial-bake";
import { wantedOf } from "../../core/bake/methods/wanted";
import { CancelledError } from "../../core/base/errors";
import type { BakeTrialInput, BakeTrialOutput } from "./bake-trial";
import { StreamLoader } from "./stream-loader";
import { streamsIn, trialDocument } from "./trial-document";

/** Up to this width lighter meshes are good enough, where the view draws them in place of sources. */
const LIGHT_UP_TO = 512;

/** Options that a trial is not told: it is of normals, of what is chosen, and as fine as it gets. */
const OWN = {
  ...{ normal: true, ao: false, also: [], fraction: "1" },
  ...{ parts: [], sheets: "" },
};

const loader = new StreamLoader();
let newest = 0;
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
  const whole = trialDocument(document, options, parts, false);
  const quick = trialDocument(document, options, parts, true);
  // The last ones come from the sources themselves, unless those are too heavy for a page.
  const passes = quick.light && !whole.light ? [quick, whole] : [whole];
  for (const pass of passes) {
    const bytes = new Map<string, Uint8Array>();
    await Promise.all(
      [...streamsIn(pass.document)].map(async (hash) =>
        bytes.set(hash, await loader.bytes(hash)),
      ),
    );
    await pause();
    const asset = fromDocument(pass.document, (hash) => bytes.get(hash)!);
    const wanted = wantedOf(asset, {
      ...options,
      ...OWN,
    } as unknown as BakeOptions);
    const widths = trialWidths(wanted.width);
    const coarse = Math.max(
      1,
      widths.filter((width) => width <= LIGHT_UP_TO).length,
    );
    const own =
      passes.length === 1
        ? widths
        : pass === quick
          ? widths.slice(0, coarse)
          : widths.slice(Math.min(coarse, widths.length - 1));
    const { only, light } = pass;
    for await (const { maps, ...figures } of trialBake(
      asset,
      { ...wanted, greenUp: true },
      only,
      own,
      pause,
    ))
      tell(
        {
          ...{ kind: "maps", turn, maps },
          figures: {
            ...figures,
            light,
            last: figures.last && pass === passes.at(-1),
            full: wanted.width,
            milliseconds: performance.now() - start,
          },
        },
        maps.map(({ pixels }) => pixels.buffer as ArrayBuffer),
      );
  }
}

self.onmessage = ({ data }: MessageEvent<BakeTrialInput>) => {
  newest = data.turn;
  run(data).catch((error: unknown) => {
    if (error instanceof CancelledError) return;
    const message = error instanceof Error ? error.message : String(error);
    tell({ kind: "failed", turn: data.turn, message });
  });
};
