export { collideAsset } from "./operations/make-hulls";
export { dropAsset } from "./operations/drop";
