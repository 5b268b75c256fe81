export { bringIn } from "./bring-in";
export { setBrief } from "./brief";
export { setPartRules } from "./part-rules";
