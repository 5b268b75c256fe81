export { bakeAsset } from "./operations/bake";
export { shapeCage, dropCage, bringCage, cageFile } from "./operations/cage";
export { lookOff } from "./operations/look-off";
