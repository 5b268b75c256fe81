export { unwrapParts } from "./unwrap";
export { packOnly } from "./pack-islands";
