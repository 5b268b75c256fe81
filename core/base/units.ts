import { spaced } from "./wording";

/** A number of two digits at least, no more than three where it is small: 88 700, 42.0, 3.10, 0.25. */
function short(value: number): string {
  const amount = Math.abs(value);
  if (amount >= 999.5) {
    const whole = spaced(Number(amount.toPrecision(3)));
    return value < 0 ? `-${whole}` : whole;
  }
  return value.toFixed(amount >= 99.95 ? 0 : amount >= 9.995 ? 1 : 2);
}

type Units = readonly (readonly [size: number, unit: string, from: number])[];

/** A value in the first unit that it reaches; what is less than the last shows is told with two digits. */
function inUnits(value: number, units: Units): string {
  const amount = Math.abs(value);
  const found = units.find(([, , from]) => amount >= from);
  const [size, unit] = found ?? units[units.length - 1];
  if (!amount) return `0 ${unit}`;
  const text =
    amount / size < 0.1
      ? String(Number((value / size).toPrecision(2)))
      : short(value / size);
  return `${text} ${unit}`;
}

const LENGTHS: Units = [
  [1e3, "km", 999.5],
  [1, "m", 0.995],
  [1e-2, "cm", 9.95e-3],
  [1e-3, "mm", 9.95e-5],
  [1e-6, "µm", 9.95e-8],
  [1e-9, "nm", 0],
];
const AREAS: Units = [
  [1e6, "km²", 999_500],
  [1, "m²", 0.0995],
  [1e-4, "cm²", 0.995e-4],
  [1e-6, "mm²", 0.995e-8],
  [1e-12, "µm²", 0],
];
const VOLUMES: Units = [
  [1e12, "km³", 0.9995e10],
  [1e3, "m³", 999.5],
  [1, "l", 0.995],
  [1e-3, "cm³", 0.995e-5],
  [1e-6, "mm³", 0],
];
const BYTES: Units = [
  [1e9, "GB", 999.5e6],
  [1e6, "MB", 999.5e3],
  [1e3, "kB", 999.5],
];

/** Metres in the unit that reads best. */
export const length = (metres: number) =>
  metres ? inUnits(metres, LENGTHS) : "0 mm";

/** Square metres in the unit that reads best. */
export const area = (square: number) => inUnits(square, AREAS);

/** Litres in the unit that reads best. */
export const volume = (litres: number) =>
  litres ? inUnits(litres, VOLUMES) : "0 l";

/** Bytes in the unit that reads best, by thousands. */
export const bytes = (count: number) =>
  count < 999.5 ? `${Math.round(count)} B` : inUnits(count, BYTES);

/** Seconds as people say them: 0.42 s, 12.3 s, 2 min 5 s, 1 h 4 min. */
export function time(seconds: number): string {
  if (seconds < 59.95) return `${short(seconds)} s`;
  const whole = Math.round(seconds);
  if (whole < 3600) {
    const rest = whole % 60;
    return `${Math.floor(whole / 60)} min${rest ? ` ${rest} s` : ""}`;
  }
  const minutes = Math.round(whole / 60);
  const rest = minutes % 60;
  return `${Math.floor(minutes / 60)} h${rest ? ` ${rest} min` : ""}`;
}

/** Three extents in one unit: the largest one's. */
export function extents(metres: readonly number[]): string {
  const most = Math.max(...metres.map(Math.abs));
  const [size, unit] =
    LENGTHS.find(([, , from]) => most >= from) ?? LENGTHS[LENGTHS.length - 1];
  return `${metres.map((x) => short(x / size)).join(" × ")} ${unit}`;
}
