export { bakeAsset } from "./operations/bake";
export { shapeCage, dropCage, bringCage, cageFile } from "./operations/cage";
export { bringMap, useMap } from "./operations/bring-map";
export { lookOff } from "./operations/look-off";
