export { shipAsset } from "./ship";
