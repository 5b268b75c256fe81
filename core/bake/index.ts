export { bakeAsset } from "./operations/bake";
