import { spaced } from "./figures";

/** What a number may be. */
export interface NumberRule {
  integer: boolean;
  min?: number;
  max?: number;
}

/**
 * Reads a number as a person writes it: `5 000`, `5,000` where whole numbers are asked for, `0,5` and `0.5`
 * elsewhere. Nothing is cut, rounded or moved into the range: what does not fit is said.
 * @returns the number, or what is wrong with the text
 */
export function readNumber(
  text: string,
  { integer, min, max }: NumberRule,
): { value: number } | { wrong: string } {
  const bare = text
    .replace(/[\s\u2009\u202f\u00a0]/g, "")
    .replace("\u2212", "-");
  const plain =
    integer && /^-?\d{1,3}(,\d{3})+$/.test(bare)
      ? bare.replaceAll(",", "")
      : bare.replace(/^(-?\d*),(\d+)$/, "$1.$2");
  if (!/^[-+]?(\d+\.?\d*|\.\d+)(e[-+]?\d+)?$/i.test(plain))
    return {
      wrong: integer ? "a whole number is wanted" : "a number is wanted",
    };
  const value = Number(plain);
  if (integer && !Number.isInteger(value))
    return { wrong: "a whole number is wanted" };
  if (min !== undefined && value < min)
    return { wrong: `${numeral(min)} is the least` };
  if (max !== undefined && value > max)
    return { wrong: `${numeral(max)} is the most` };
  return { value };
}

/** A number as it stands in a field: all of its digits, thousands apart from five digits on. */
export function numeral(value: number): string {
  if (Number.isInteger(value) && Math.abs(value) < 1e15)
    return Math.abs(value) < 10_000
      ? String(value)
      : `${value < 0 ? "-" : ""}${spaced(Math.abs(value))}`;
  return String(value);
}
