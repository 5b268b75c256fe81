import type { Asset } from "../../core/asset/asset";

/** All arrays that an asset holds, with copies of what they had: tells later whether any was written to. */
export function streamsIn(asset: Asset): { same(): boolean } {
  const kept: [ArrayLike<number>, ArrayLike<number>][] = [];
  const seen = new Set<unknown>();
  const look = (value: unknown): void => {
    if (!value || typeof value !== "object" || seen.has(value)) return;
    seen.add(value);
    if (ArrayBuffer.isView(value)) {
      const array = value as Uint8Array;
      kept.push([array, array.slice()]);
      return;
    }
    for (const each of Object.values(value)) look(each);
  };
  look(asset);
  return {
    same: () =>
      kept.every(([now, was]) => {
        for (let i = 0; i < was.length; i++)
          if (
            now[i] !== was[i] &&
            !(Number.isNaN(now[i]) && Number.isNaN(was[i]))
          )
            return false;
        return now.length === was.length;
      }),
  };
}
