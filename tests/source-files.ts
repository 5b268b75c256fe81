import { readdirSync, statSync } from "node:fs";
import { join } from "node:path";

/** All files in a folder and those below it. */
export function filesIn(folder: string): string[] {
  return readdirSync(folder).flatMap((name) => {
    const path = join(folder, name);
    return statSync(path).isDirectory() ? filesIn(path) : [path];
  });
}

/** The code files in a folder, tests and what is compiled by itself left out. */
export const sourceFiles = (folder: string): string[] =>
  filesIn(folder).filter(
    (path) =>
      /\.(ts|vue)$/.test(path) &&
      !path.endsWith(".test.ts") &&
      !path.includes("core/space/kernel/"),
  );
