/** A number as it is shown everywhere: thousands apart by thin spaces. */
export function spaced(value: number): string {
  return Math.round(value)
    .toString()
    .replace(/\B(?=(\d{3})+$)/g, "\u2009");
}
