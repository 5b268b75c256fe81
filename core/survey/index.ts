export { countParts } from "./count";
export { weldParts } from "./weld-parts";
