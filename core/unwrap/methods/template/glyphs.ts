/**
 * Letters as strokes on a grid 4 wide and 6 high, for names on templates: pairs of points "xy", strokes parted by
 * blanks. Small letters are written as capitals.
 */
const GLYPHS: Record<string, string> = {
  A: "002646 1333",
  B: "0006362514030",
  C: "4506154",
  "0": "1030414636160501 10",
  "1": "152620 1030",
  "2": "05163645440040",
  "3": "051636454433 1333 334241301001",
  "4": "300636 0242",
  "5": "460603334241301001",
  "6": "36160501103041423303",
  "7": "064620",
  "8": "130405163645443313 130201103041423313",
  "9": "4313040516364541301001",
  D: "000626454120 2000",
  E: "460600 4000 0333",
  F: "460600 0333",
  G: "4536160501103041 4123",
  H: "0600 4640 0343",
  I: "1636 2620 1030",
  J: "4641301001",
  K: "0600 460340",
  L: "060040",
  M: "0006234640",
  N: "00064046",
  O: "1030414536160501 0110",
  P: "0006364544330 3303",
  Q: "1030414536160501 0110 2240",
  R: "00063645443303 2340",
  S: "4536160514333241301001",
  T: "0646 2620",
  U: "060110304146",
  V: "062046",
  W: "0610233046",
  X: "0046 0640",
  Y: "062346 2320",
  Z: "06460040",
  "-": "1333",
  _: "0040",
  ".": "2021",
};

const WIDTH = 4;
const HEIGHT = 6;
const STEP = 6;

/** Line segments [x0, y0, x1, y1] of a text. @param size height of a letter; @param x, y lower left */
export function strokesOf(
  text: string,
  x: number,
  y: number,
  size: number,
): [number, number, number, number][] {
  const unit = size / HEIGHT;
  const lines: [number, number, number, number][] = [];
  [...text.toUpperCase()].forEach((letter, i) => {
    const left = x + i * STEP * unit;
    for (const stroke of (GLYPHS[letter] ?? "").split(" ")) {
      const points = stroke.match(/\d\d/g) ?? [];
      for (let k = 1; k < points.length; k++) {
        const [[ax, ay], [bx, by]] = [points[k - 1], points[k]].map((p) => [
          left + Number(p[0]) * unit,
          y + Number(p[1]) * unit,
        ]);
        lines.push([ax, ay, bx, by]);
      }
    }
  });
  return lines;
}

/** Width of a text, in the same unit as its size. */
export const widthOf = (text: string, size: number) =>
  ((text.length * STEP - (STEP - WIDTH)) * size) / HEIGHT;
