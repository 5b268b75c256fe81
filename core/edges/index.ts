export { hardByAngle } from "./hard-by-angle";
export { markEdges } from "./mark";
export { hardAtIslands } from "./hard-at-islands";
export { hardAtBorders } from "./hard-at-borders";
export { smoothUnsplit, hardenSeams } from "./mend-unsplit";
export { weighNormals } from "./weigh-normals";
export { takeNormals, dropNormals } from "./take-normals";
