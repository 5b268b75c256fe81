import { join } from "node:path";
import { pathToFileURL } from "node:url";

/** A script that `npm run setup` has built for Node, beside the server: threads and processes start from them. */
export const builtScript = (name: string): URL =>
  pathToFileURL(
    join(process.env.ARNIK_ROOT ?? process.cwd(), "dist", `${name}.mjs`),
  );
