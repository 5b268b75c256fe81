export { countParts } from "./count";
export { repair } from "./repair";
