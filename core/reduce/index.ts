export { reduceToBudget } from "./to-budget";
