/** A part and its ray distance in mm, such as `lid = 4.2`, up to the next one. */
const ENTRY = /\s*(\S.*?)\s*=\s*(\d+(?:\.\d+)?)\s*(?:;|$)/gy;

/**
 * Reads ray distances of single parts, such as `lid = 4.2; body = 1.5`.
 * @returns mm by part, in the order given; what is none of them where the text goes wrong
 */
export function readDistances(text: string): Map<string, number> | string {
  const found = new Map<string, number>();
  let end = 0;
  for (const entry of text.matchAll(ENTRY)) {
    const [whole, part, mm] = entry;
    if (!(Number(mm) > 0) || Number(mm) > 10000) return whole.trim();
    found.set(part, Number(mm));
    end = entry.index + whole.length;
  }
  const rest = text.slice(end).trim();
  return rest || found;
}

/** Ray distances as text, with another one for a part. @param mm of that part */
export function withDistance(text: string, part: string, mm: number): string {
  const read = readDistances(text);
  const known = typeof read === "string" ? new Map<string, number>() : read;
  known.delete(part);
  known.set(part, mm);
  return [...known].map(([name, value]) => `${name} = ${value}`).join("; ");
}
