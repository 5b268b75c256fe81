/** Takes a figure of the bench: what was measured on what, and what is wanted. */
export type Tell = (
  what: string,
  on: string,
  value: number,
  reach: string,
) => void;
