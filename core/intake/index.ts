export { bringIn } from "./operations/bring-in";
export { setBrief } from "./operations/brief";
export { setPartRules } from "./operations/part-rules";
export { matchParts, joinPair, partPair } from "./operations/pair";
export { setScale } from "./operations/scale";
export { addReference, editReference } from "./operations/references";
export { openProject } from "./operations/open-project";
export { bringOver } from "./operations/bring-over";
