import { existsSync, readFileSync, readdirSync } from "node:fs";

/** Processes below one, itself first; Linux only. */
export function familyOf(pid: number): number[] {
  const parents = new Map<number, number>();
  for (const name of readdirSync("/proc").filter((each) => /^\d+$/.test(each)))
    try {
      const stat = readFileSync(`/proc/${name}/stat`, "utf8");
      const [, parent] = stat.slice(stat.lastIndexOf(")") + 2).split(" ");
      parents.set(Number(name), Number(parent));
    } catch {
      // It ended meanwhile.
    }
  const family = [pid];
  for (const member of family)
    for (const [child, parent] of parents)
      if (parent === member) family.push(child);
  return family;
}

/** Megabytes that a process and those below it hold now (VmRSS), or held at most (VmHWM). */
export function megabytes(pid: number, what: "VmRSS" | "VmHWM"): number {
  let kilobytes = 0;
  for (const member of familyOf(pid)) {
    const file = `/proc/${member}/status`;
    if (!existsSync(file)) continue;
    const found = new RegExp(`${what}:\\s+(\\d+)`).exec(
      readFileSync(file, "utf8"),
    );
    kilobytes += Number(found?.[1] ?? 0);
  }
  return kilobytes / 1024;
}
