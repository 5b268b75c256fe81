export { hardByAngle } from "./hard-by-angle";
export { markEdges } from "./mark";
export { hardAtIslands } from "./hard-at-islands";
