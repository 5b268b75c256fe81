export { reduceToBudget } from "./to-budget";
export { reduceToEvenQuads } from "./even-quads";
export { reduceByLoops, changeLoops } from "./thin-loops";
export { reduceSkinOver } from "./skin-over";
export { paintDensity, computeDensity } from "./paint-density";
export { standIn } from "./stand-in";
export { makeLevels } from "./levels";
export { judge } from "./judge";
