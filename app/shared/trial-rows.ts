import type { Trial } from "../../core/collide/methods/trials";
import type { FigureRow } from "./figures";
import { length } from "./figures";

/** How a trial of the drop test went. */
export function trialRows({
  restSeconds,
  deepest,
  tilt,
  fellThrough,
}: Pick<
  Trial,
  "restSeconds" | "deepest" | "tilt" | "fellThrough"
>): FigureRow[] {
  return [
    {
      label: "Rests after",
      value: fellThrough
        ? "fell through"
        : restSeconds === null
          ? "never"
          : `${restSeconds.toFixed(1)} s`,
      state: fellThrough || restSeconds === null ? "bad" : undefined,
    },
    { label: "Deepest in the ground", value: length(deepest) },
    { label: "Tipped by", value: `${Math.round(tilt)}°` },
  ];
}
