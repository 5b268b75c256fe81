import { listOf } from "../../profiles";
import { route } from "../../answers";

/** All delivery profiles: those that everybody has, then those that were made here. */
export default route((_, { store }) => listOf(store));
