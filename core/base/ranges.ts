import { OptionsError } from "./errors";

/** Rising indices in short form: `0-120,130,140-141`. Selections travel and are recorded this way. */
export function toRanges(indices: ArrayLike<number>): string {
  const words: string[] = [];
  for (let i = 0; i < indices.length;) {
    let j = i;
    while (j + 1 < indices.length && indices[j + 1] === indices[j] + 1) j++;
    words.push(i === j ? `${indices[i]}` : `${indices[i]}-${indices[j]}`);
    i = j + 1;
  }
  return words.join(",");
}

/**
 * Marks the indices of a short form.
 * @param count how many there can be; what lies beyond is refused
 * @throws OptionsError naming the word that is wrong
 */
export function fromRanges(text: string, count: number): Uint8Array {
  const marks = new Uint8Array(count);
  if (!text) return marks;
  for (const word of text.split(",")) {
    const match = /^(\d+)(?:-(\d+))?$/.exec(word);
    const from = Number(match?.[1]);
    const to = Number(match?.[2] ?? match?.[1]);
    if (!match || to < from || to >= count)
      throw new OptionsError("selection", {
        faces: `"${word.slice(0, 40)}" is no range of 0 to ${count - 1}`,
      });
    marks.fill(1, from, to + 1);
  }
  return marks;
}

/** The marked indices, rising. */
export function indicesOf(marks: ArrayLike<number>): number[] {
  const found: number[] = [];
  for (let i = 0; i < marks.length; i++) if (marks[i]) found.push(i);
  return found;
}
