export { reduceToBudget } from "./to-budget";
export { judge } from "./judge";
