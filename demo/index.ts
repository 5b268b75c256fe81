import type { Asset } from "../core/asset/asset";
import { channelBuoy } from "./channel-buoy";
import { fishCrate } from "./fish-crate";
import { hornShell } from "./horn-shell";
import { mooringBollard } from "./mooring-bollard";
import { netPanel } from "./net-panel";
import { stormLamp } from "./storm-lamp";

/** The gear of Sorrel Quay, by file name. */
export const DEMO_ASSETS: Record<string, () => Asset> = {
  "storm-lamp": stormLamp,
  "horn-shell": hornShell,
  "mooring-bollard": mooringBollard,
  "channel-buoy": channelBuoy,
  "fish-crate": fishCrate,
  "net-panel": netPanel,
};
