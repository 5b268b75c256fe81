export { shipAsset } from "./operations/ship";
