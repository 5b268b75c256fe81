export { bakeAsset } from "./operations/bake";
export { lookOff } from "./operations/look-off";
