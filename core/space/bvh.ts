/**
 * A bounding volume hierarchy over triangles in flat arrays.
 *
 * Notes: an inner node holds the boxes of both its children, so a ray that visits it decides on both with one
 * run of reads, and a leaf needs no node at all. Boxes and child numbers share one run of 64 bytes, a line of
 * the cache; nodes follow each other as a walk down the left side meets them. Both together were worth a third
 * of the time of a ray against separate arrays in order of making (docs/measuring.md).
 */
export interface Bvh {
  /** 16 × nodeCount: minX minY minZ maxX maxY maxZ of the left child, then of the right one, then 4 links. */
  readonly nodes: Float32Array;
  /** The same bytes; at NODE_LINKS of each node its two children: see `leafOf` for those below 0. */
  readonly links: Int32Array;
  /** 9 × triangleCount in leaf order: first corner, then the edges to the second and the third. */
  readonly triangles: Float32Array;
  /** triangleCount: the triangle as the caller numbered it. */
  readonly ids: Uint32Array;
}

/** Words of a node, and where its links begin. A child ≥ 0 is the first word of an inner node. */
export const NODE = 16;
export const NODE_LINKS = 12;
const LEAF_SIZE = 4;
const BINS = 16;

/** A leaf as a child number: its first triangle and how many there are (0 … 7). */
const leafOf = (start: number, count: number) => -1 - (start * 8 + count);

/** Where the triangles of a leaf begin among the ids. */
export const leafStart = (child: number) => (-1 - child) >>> 3;

/** How many triangles a leaf has. */
export const leafCount = (child: number) => (-1 - child) & 7;

/**
 * Builds the hierarchy by binned surface area heuristic (Wald 2007).
 * @param positions 3 × vertexCount, metres
 * @param indices 3 × triangleCount vertex indices
 */
export function buildBvh(
  positions: Float32Array,
  indices: ArrayLike<number>,
): Bvh {
  const count = indices.length / 3;
  if (count >= 1 << 27) throw new RangeError("more than 134 million triangles");
  const { boxOf, centre } = boxesOf(positions, indices, count);
  const order = new Uint32Array(count).map((_, t) => t);
  const buffer = new ArrayBuffer(4 * NODE * Math.max(1, count));
  const nodes = new Float32Array(buffer);
  const links = new Int32Array(buffer);
  let used = 0;
  const stack: number[] = [];
  const child = (slot: number, box: number, start: number, end: number) => {
    enclose(boxOf, order, start, end, nodes, box);
    if (end - start <= LEAF_SIZE) links[slot] = leafOf(start, end - start);
    else stack.push(slot, start, end);
  };
  const node = (start: number, middle: number, end: number) => {
    const at = used;
    used += NODE;
    child(at + NODE_LINKS + 1, at + 6, middle, end);
    child(at + NODE_LINKS, at, start, middle);
  };
  if (count <= LEAF_SIZE) node(0, count, count);
  else node(0, split(boxOf, centre, order, 0, count), count);
  while (stack.length) {
    const end = stack.pop()!;
    const start = stack.pop()!;
    links[stack.pop()!] = used;
    node(start, split(boxOf, centre, order, start, end), end);
  }
  const bytes = buffer.slice(0, 4 * used);
  return {
    nodes: new Float32Array(bytes),
    links: new Int32Array(bytes),
    triangles: layTriangles(positions, indices, order),
    ids: order,
  };
}

/** Box (6 each) and middle (3 each) of every triangle. */
function boxesOf(
  positions: Float32Array,
  indices: ArrayLike<number>,
  count: number,
) {
  const boxOf = new Float32Array(6 * count);
  const centre = new Float32Array(3 * count);
  for (let t = 0; t < count; t++)
    for (let k = 0; k < 3; k++) {
      const a = positions[3 * indices[3 * t] + k];
      const b = positions[3 * indices[3 * t + 1] + k];
      const c = positions[3 * indices[3 * t + 2] + k];
      const low = a < b ? (a < c ? a : c) : b < c ? b : c;
      const high = a > b ? (a > c ? a : c) : b > c ? b : c;
      boxOf[6 * t + k] = low;
      boxOf[6 * t + 3 + k] = high;
      centre[3 * t + k] = (low + high) / 2;
    }
  return { boxOf, centre };
}

function layTriangles(
  positions: Float32Array,
  indices: ArrayLike<number>,
  order: Uint32Array,
) {
  const triangles = new Float32Array(9 * order.length);
  for (let i = 0; i < order.length; i++) {
    const t = order[i];
    for (let k = 0; k < 3; k++) {
      const a = positions[3 * indices[3 * t] + k];
      triangles[9 * i + k] = a;
      triangles[9 * i + 3 + k] = positions[3 * indices[3 * t + 1] + k] - a;
      triangles[9 * i + 6 + k] = positions[3 * indices[3 * t + 2] + k] - a;
    }
  }
  return triangles;
}

function enclose(
  boxOf: Float32Array,
  order: Uint32Array,
  start: number,
  end: number,
  into: Float32Array,
  at: number,
) {
  for (let k = 0; k < 3; k++) {
    let low = Infinity;
    let high = -Infinity;
    for (let i = start; i < end; i++) {
      const t = 6 * order[i];
      if (boxOf[t + k] < low) low = boxOf[t + k];
      if (boxOf[t + 3 + k] > high) high = boxOf[t + 3 + k];
    }
    into[at + k] = low;
    into[at + 3 + k] = high;
  }
}

const binCount = new Uint32Array(BINS);
const binBox = new Float64Array(6 * BINS);
const rightArea = new Float64Array(BINS);
const box = new Float64Array(6);
const low = new Float64Array(3);
const high = new Float64Array(3);

/** Ranges below this size only try their longest axis, with fewer bins. */
const FEW = 48;

/** Orders the triangles of a range so that the two sides of the cheapest cut follow each other. */
function split(
  boxOf: Float32Array,
  centre: Float32Array,
  order: Uint32Array,
  start: number,
  end: number,
): number {
  const few = end - start < FEW;
  const bins = few ? 6 : BINS;
  measureCentres(centre, order, start, end);
  let longest = 0;
  for (let axis = 1; axis < 3; axis++)
    if (high[axis] - low[axis] > high[longest] - low[longest]) longest = axis;
  let bestCost = Infinity;
  let bestAxis = -1;
  let bestBin = 0;
  for (let axis = 0; axis < 3; axis++) {
    if ((few && axis !== longest) || !(high[axis] > low[axis])) continue;
    const scale = bins / (high[axis] - low[axis]);
    fillBins(boxOf, centre, order, start, end, axis, low[axis], scale, bins);
    empty(box, 0);
    for (let b = bins - 1; b > 0; b--) {
      grow(b);
      rightArea[b] = areaOfBox();
    }
    empty(box, 0);
    let left = 0;
    for (let b = 0; b < bins - 1; b++) {
      left += binCount[b];
      grow(b);
      const right = end - start - left;
      if (left === 0 || right === 0) continue;
      const cost = left * areaOfBox() + right * rightArea[b + 1];
      if (cost < bestCost) {
        bestCost = cost;
        bestAxis = axis;
        bestBin = b;
      }
    }
  }
  if (bestAxis < 0) return (start + end) >>> 1;
  const from = low[bestAxis];
  const scale = bins / (high[bestAxis] - from);
  let i = start;
  let j = end - 1;
  while (i <= j) {
    const t = order[i];
    if (binOf(centre[3 * t + bestAxis], from, scale, bins) <= bestBin) i++;
    else {
      order[i] = order[j];
      order[j--] = t;
    }
  }
  return i;
}

function binOf(x: number, from: number, scale: number, bins: number): number {
  const bin = ((x - from) * scale) | 0;
  return bin < bins ? bin : bins - 1;
}

function measureCentres(
  centre: Float32Array,
  order: Uint32Array,
  start: number,
  end: number,
) {
  let x0 = Infinity;
  let y0 = Infinity;
  let z0 = Infinity;
  let x1 = -Infinity;
  let y1 = -Infinity;
  let z1 = -Infinity;
  for (let i = start; i < end; i++) {
    const t = 3 * order[i];
    const x = centre[t];
    const y = centre[t + 1];
    const z = centre[t + 2];
    if (x < x0) x0 = x;
    if (x > x1) x1 = x;
    if (y < y0) y0 = y;
    if (y > y1) y1 = y;
    if (z < z0) z0 = z;
    if (z > z1) z1 = z;
  }
  low[0] = x0;
  low[1] = y0;
  low[2] = z0;
  high[0] = x1;
  high[1] = y1;
  high[2] = z1;
}

function empty(into: Float64Array, at: number) {
  into[at] = into[at + 1] = into[at + 2] = Infinity;
  into[at + 3] = into[at + 4] = into[at + 5] = -Infinity;
}

function fillBins(
  boxOf: Float32Array,
  centre: Float32Array,
  order: Uint32Array,
  start: number,
  end: number,
  axis: number,
  from: number,
  scale: number,
  bins: number,
) {
  for (let b = 0; b < bins; b++) {
    binCount[b] = 0;
    empty(binBox, 6 * b);
  }
  for (let i = start; i < end; i++) {
    const t = order[i];
    const b = binOf(centre[3 * t + axis], from, scale, bins);
    binCount[b]++;
    const to = 6 * b;
    const at = 6 * t;
    if (boxOf[at] < binBox[to]) binBox[to] = boxOf[at];
    if (boxOf[at + 1] < binBox[to + 1]) binBox[to + 1] = boxOf[at + 1];
    if (boxOf[at + 2] < binBox[to + 2]) binBox[to + 2] = boxOf[at + 2];
    if (boxOf[at + 3] > binBox[to + 3]) binBox[to + 3] = boxOf[at + 3];
    if (boxOf[at + 4] > binBox[to + 4]) binBox[to + 4] = boxOf[at + 4];
    if (boxOf[at + 5] > binBox[to + 5]) binBox[to + 5] = boxOf[at + 5];
  }
}

/** Grows `box` by a bin. */
function grow(bin: number) {
  const at = 6 * bin;
  for (let k = 0; k < 3; k++) {
    if (binBox[at + k] < box[k]) box[k] = binBox[at + k];
    if (binBox[at + 3 + k] > box[3 + k]) box[3 + k] = binBox[at + 3 + k];
  }
}

function areaOfBox(): number {
  const x = box[3] - box[0];
  const y = box[4] - box[1];
  const z = box[5] - box[2];
  return x >= 0 ? x * y + y * z + z * x : 0;
}
