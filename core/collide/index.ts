export { collideAsset } from "./operations/make-hulls";
