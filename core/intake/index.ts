export { bringIn } from "./bring-in";
export { setBrief } from "./brief";
export { setPartRules } from "./part-rules";
export { matchParts, joinPair, partPair } from "./pair";
export { setScale } from "./scale";
export { addReference, editReference } from "./references";
export { bringOver } from "./bring-over";
