export { bakeAsset } from "./bake";
