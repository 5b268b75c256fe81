import type { Vector } from "./vector";

/** From where an asset can be looked at, as far as directions go. */
export type Side = "all round" | "on a floor" | "against a wall";

export const SIDES: readonly { value: Side; label: string }[] = [
  { value: "all round", label: "all round" },
  { value: "on a floor", label: "standing on a floor" },
  { value: "against a wall", label: "floor and a wall behind" },
];

/**
 * Directions towards the eye, spread evenly over what is allowed (a spiral over the sphere).
 * On a floor nothing is seen from below, against a wall nothing from behind (−z) either.
 */
export function viewDirections(
  count: number,
  from: Side = "all round",
): Vector[] {
  const share = { "all round": 1, "on a floor": 0.5, "against a wall": 0.25 };
  const total = Math.ceil(count / share[from]);
  const found: Vector[] = [];
  const golden = Math.PI * (3 - Math.sqrt(5));
  for (let i = 0; i < total; i++) {
    const y = 1 - (2 * (i + 0.5)) / total;
    const r = Math.sqrt(1 - y * y);
    const direction: Vector = [
      r * Math.cos(golden * i),
      y,
      r * Math.sin(golden * i),
    ];
    if (from !== "all round" && y < 0) continue;
    if (from === "against a wall" && direction[2] < 0) continue;
    found.push(direction);
  }
  return found.slice(0, count);
}

/** Two directions square to one and to each other. */
export function frameOf(n: Vector): [Vector, Vector] {
  const sign = n[2] < 0 ? -1 : 1;
  const a = -1 / (sign + n[2]);
  const b = n[0] * n[1] * a;
  return [
    [1 + sign * n[0] * n[0] * a, sign * b, -sign * n[0]],
    [b, sign + n[1] * n[1] * a, -n[1]],
  ];
}
