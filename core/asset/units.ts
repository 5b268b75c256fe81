/** Units that files are measured in. */
export const UNITS = [
  { value: "m", label: "metres", metres: 1 },
  { value: "cm", label: "centimetres", metres: 0.01 },
  { value: "mm", label: "millimetres", metres: 0.001 },
  { value: "in", label: "inches", metres: 0.0254 },
] as const;

export type Unit = (typeof UNITS)[number]["value"];

/** Which way is up in files. */
export const AXES = [
  { value: "y", label: "y up" },
  { value: "z", label: "z up" },
] as const;
