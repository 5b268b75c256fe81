export { unwrapParts } from "./unwrap";
export { repackIslands } from "./repack";
