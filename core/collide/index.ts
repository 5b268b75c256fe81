export { collideAsset } from "./make-hulls";
