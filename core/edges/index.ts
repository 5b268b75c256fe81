export { hardByAngle } from "./operations/hard-by-angle";
export { markEdges } from "./operations/mark";
export { hardAtIslands } from "./operations/hard-at-islands";
export { hardAtBorders } from "./operations/hard-at-borders";
export { smoothUnsplit, hardenSeams } from "./operations/mend-unsplit";
export { roundEdges } from "./operations/round";
export { weighNormals } from "./operations/weigh-normals";
export { takeNormals, dropNormals } from "./operations/take-normals";
