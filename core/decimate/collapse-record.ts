import type { Soup, Triangles } from "./soup";

/**
 * The order in which a soup was collapsed, from `base` down: any budget is then a seek.
 *
 * Vertices keep their numbers in the base; a step joins `second` to `first` and moves it. A step whose second is
 * below 0 gives up a whole component and moves nothing.
 */
export interface CollapseRecord extends Triangles {
  positions: Float32Array;
  /** triangleCount: the step at which each triangle of the base goes; the number of steps for those that stay. */
  death: Uint32Array;
  /** stepCount: the vertex that stays, and the one that goes or −1. */
  first: Uint32Array;
  second: Int32Array;
  /** 3 × stepCount */
  places: Float32Array;
  /** stepCount: how much the integral of squared distance grew, metres⁴. */
  errorIncrease: Float32Array;
  /** stepCount: triangles that went. */
  removedCount: Uint16Array;
  /** stepCount: the mesh in which it happened. */
  meshIndex: Uint16Array;
  /** Per mesh: the integral before the first step, metres⁴, and the area of the source, m². */
  before: Float32Array;
  area: Float32Array;
  /** Per mesh: 1 where it was collapsed before the record begins. */
  collapsed: Uint8Array;
}

/** Collects steps while a soup is collapsed. */
export class RecordWriter {
  private count = 0;
  private readonly first: Uint32Array;
  private readonly second: Int32Array;
  private readonly places: Float32Array;
  private readonly rise: Float32Array;
  private readonly gone: Uint16Array;
  private readonly where: Uint16Array;
  private readonly death: Uint32Array;
  private readonly base: Omit<Triangles, "positions"> & {
    positions: Float32Array;
  };
  private readonly before: Float32Array;

  /**
   * @param soup the state to begin at, packed: all its triangles stand
   * @param vertices soup vertex of each vertex of the base, and back
   */
  constructor(
    soup: Soup,
    private readonly nameOf: Int32Array,
    vertices: Uint32Array,
    components: number,
    errors: Float64Array,
  ) {
    const positions = new Float32Array(3 * vertices.length);
    vertices.forEach((v, i) => {
      for (let k = 0; k < 3; k++)
        positions[3 * i + k] = soup.positions[3 * v + k];
    });
    this.base = {
      positions,
      triangles: soup.triangles.map((v) => nameOf[v]),
      owner: soup.owner.slice(),
      material: soup.material.slice(),
      id: soup.id.slice(),
      centre: soup.centre,
    };
    const most = vertices.length + components;
    this.first = new Uint32Array(most);
    this.second = new Int32Array(most);
    this.places = new Float32Array(3 * most);
    this.rise = new Float32Array(most);
    this.gone = new Uint16Array(most);
    this.where = new Uint16Array(most);
    this.death = new Uint32Array(soup.owner.length).fill(0xffffffff);
    this.before = Float32Array.from(errors);
  }

  /** The triangle of the base went in the step that is about to be told. */
  dies(triangle: number): void {
    this.death[triangle] = this.count;
  }

  step(
    a: number,
    b: number,
    x: number,
    y: number,
    z: number,
    rise: number,
    gone: number,
    mesh: number,
  ): void {
    const s = this.count++;
    this.first[s] = b < 0 ? 0 : this.nameOf[a];
    this.second[s] = b < 0 ? -1 : this.nameOf[b];
    this.places[3 * s] = x;
    this.places[3 * s + 1] = y;
    this.places[3 * s + 2] = z;
    this.rise[s] = Math.max(0, rise);
    this.gone[s] = gone;
    this.where[s] = mesh;
  }

  finish(area: Float64Array, collapsed: Uint8Array): CollapseRecord {
    const n = this.count;
    return {
      ...this.base,
      death: this.death.map((step) => Math.min(step, n)),
      first: this.first.slice(0, n),
      second: this.second.slice(0, n),
      places: this.places.slice(0, 3 * n),
      errorIncrease: this.rise.slice(0, n),
      removedCount: this.gone.slice(0, n),
      meshIndex: this.where.slice(0, n),
      before: this.before,
      area: Float32Array.from(area),
      collapsed,
    };
  }
}

/** How a budget is dealt out over the meshes of a record. */
export interface BudgetAllocation {
  budget: number;
  /** Per mesh: triangles it must keep to by itself, or 0 where it shares what the others leave. */
  own?: readonly number[];
  /** Per mesh: triangles it may not exceed, or 0. */
  cap?: readonly number[];
  /** Per mesh: how often it is placed; 1 where left out. */
  times?: readonly number[];
}

/** The steps a deal takes. */
export interface AllocatedSteps {
  /** stepCount: 1 where the step is taken. */
  taken: Uint8Array;
  /** Per mesh: triangles left. */
  triangles: Uint32Array;
}

/** Triangles of each mesh in the base. */
export function baseCounts(record: CollapseRecord): Uint32Array {
  const counts = new Uint32Array(record.area.length);
  for (let t = 0; t < record.owner.length; t++) counts[record.owner[t]]++;
  return counts;
}

/**
 * Chooses steps until every mesh keeps to its own budget or cap and all placed triangles keep to the whole.
 * Meshes do not share vertices, so the steps of one are good whatever the others do.
 */
export function allocateBudget(
  record: CollapseRecord,
  deal: BudgetAllocation,
): AllocatedSteps {
  const own = Array.from(record.area, (_, m) => deal.own?.[m] ?? 0);
  for (;;) {
    const dealt = dealWith(record, own, deal);
    // A mesh that would get more than its cap gets just that, and what it leaves goes to the others.
    let capped = false;
    dealt.triangles.forEach((n, m) => {
      const cap = deal.cap?.[m] ?? 0;
      if (own[m] || !cap || n <= cap) return;
      own[m] = cap;
      capped = true;
    });
    if (!capped) return dealt;
  }
}

function dealWith(
  record: CollapseRecord,
  own: readonly number[],
  deal: BudgetAllocation,
): AllocatedSteps {
  const { removedCount, meshIndex, second } = record;
  const taken = new Uint8Array(removedCount.length);
  const triangles = baseCounts(record);
  const times = (m: number) => deal.times?.[m] ?? 1;
  let left = deal.budget;
  let free = 0;
  for (let m = 0; m < triangles.length; m++)
    if (own[m]) left -= times(m) * Math.min(triangles[m], own[m]);
    else free += times(m) * triangles[m];
  const near = (wanted: number) => Math.floor(wanted * 0.995) - 1;
  const take = (s: number) => {
    taken[s] = 1;
    triangles[meshIndex[s]] -= removedCount[s];
    if (!own[meshIndex[s]]) free -= times(meshIndex[s]) * removedCount[s];
  };
  const passedOver: number[] = [];
  for (let s = 0; s < removedCount.length; s++) {
    const m = meshIndex[s];
    const limit = own[m];
    if (limit ? triangles[m] <= limit : free <= left) continue;
    // Giving up a component must not go far below what is wanted.
    if (
      second[s] < 0 &&
      (limit
        ? triangles[m] - removedCount[s] < near(limit)
        : free - times(m) * removedCount[s] < near(left))
    )
      passedOver.push(s);
    else take(s);
  }
  // Far below is better than above: the smallest piece that suffices goes after all, but never the last there is.
  passedOver.sort((s, t) => removedCount[s] - removedCount[t] || s - t);
  const over = (s: number) => {
    const m = meshIndex[s];
    return own[m] ? triangles[m] - own[m] : (free - left) / times(m);
  };
  const rest = (s: number) => {
    const m = meshIndex[s];
    return own[m] ? triangles[m] : free / times(m);
  };
  for (;;) {
    const open = passedOver.filter(
      (s) => !taken[s] && over(s) > 0 && rest(s) > removedCount[s],
    );
    const next = open.find((s) => removedCount[s] >= over(s)) ?? open.at(-1);
    if (next === undefined) break;
    take(next);
  }
  return { taken, triangles };
}

/**
 * The state of a record after the steps that are taken.
 * @param taken one per step: 1 where it is taken
 */
export function seek(record: CollapseRecord, taken: Uint8Array): Triangles {
  const { first, second, places, death } = record;
  const vertices = record.positions.length / 3;
  const stands = new Uint32Array(vertices);
  for (let v = 0; v < vertices; v++) stands[v] = v;
  const positions = record.positions.slice();
  for (let s = 0; s < taken.length; s++) {
    if (!taken[s] || second[s] < 0) continue;
    const a = 3 * first[s];
    positions[a] = places[3 * s];
    positions[a + 1] = places[3 * s + 1];
    positions[a + 2] = places[3 * s + 2];
  }
  // The vertex a step joins to was joined itself only later, so from the end each finds where it stands.
  for (let s = taken.length - 1; s >= 0; s--)
    if (taken[s] && second[s] >= 0) stands[second[s]] = stands[first[s]];
  let live = 0;
  const total = death.length;
  for (let t = 0; t < total; t++)
    if (!(death[t] < taken.length && taken[death[t]])) live++;
  const triangles = new Uint32Array(3 * live);
  const owner = new Uint16Array(live);
  const material = new Uint16Array(live);
  const id = new Uint16Array(live);
  let at = 0;
  for (let t = 0; t < total; t++) {
    if (death[t] < taken.length && taken[death[t]]) continue;
    for (let k = 0; k < 3; k++)
      triangles[3 * at + k] = stands[record.triangles[3 * t + k]];
    owner[at] = record.owner[t];
    material[at] = record.material[t];
    id[at] = record.id[t];
    at++;
  }
  return { positions, triangles, owner, material, id, centre: record.centre };
}

/** Error against triangles: one point a share of the way, from few triangles to many. */
export interface ErrorCurve {
  triangles: number[];
  /** Estimated root mean square distance, metres. */
  rms: number[];
}

/**
 * The curve of every mesh by itself and of all together.
 * @param points how many points a curve gets at most
 */
export function errorCurves(
  record: CollapseRecord,
  times: (mesh: number) => number = () => 1,
  points = 60,
): { all: ErrorCurve; meshes: ErrorCurve[] } {
  const counts = baseCounts(record);
  const total = counts.reduce((sum, n, m) => sum + n * times(m), 0);
  const all = new CurveWriter(
    total,
    sumOf(record.before, times),
    sumOf(record.area, times),
    points,
  );
  const meshes = Array.from(
    counts,
    (n, m) => new CurveWriter(n, record.before[m], record.area[m], points),
  );
  for (let s = 0; s < record.removedCount.length; s++) {
    const m = record.meshIndex[s];
    meshes[m].step(record.removedCount[s], record.errorIncrease[s]);
    all.step(
      record.removedCount[s] * times(m),
      record.errorIncrease[s] * times(m),
    );
  }
  return { all: all.curve(), meshes: meshes.map((each) => each.curve()) };
}

/** Triangles of each mesh where all together have come down to a budget. */
export function meshesAt(
  record: CollapseRecord,
  budget: number,
  times: (mesh: number) => number = () => 1,
): number[] {
  const counts = Array.from(baseCounts(record));
  let total = counts.reduce((sum, n, m) => sum + n * times(m), 0);
  for (let s = 0; s < record.removedCount.length && total > budget; s++) {
    const m = record.meshIndex[s];
    counts[m] -= record.removedCount[s];
    total -= record.removedCount[s] * times(m);
  }
  return counts;
}

const sumOf = (values: Float32Array, times: (m: number) => number) =>
  values.reduce((sum, value, m) => sum + value * times(m), 0);

class CurveWriter {
  private readonly found: [number, number][] = [];
  private next: number;
  private readonly ratio: number;

  constructor(
    private triangles: number,
    private error: number,
    private readonly area: number,
    points: number,
  ) {
    this.ratio = Math.max(4, triangles) ** (-1 / points);
    this.next = triangles;
    this.note();
  }

  step(gone: number, rise: number): void {
    this.triangles -= gone;
    this.error += rise;
    if (this.triangles <= this.next && this.triangles > 0) this.note();
  }

  private note(): void {
    this.found.push([this.triangles, Math.sqrt(this.error / (this.area || 1))]);
    this.next = Math.min(this.triangles - 1, this.next * this.ratio);
  }

  curve(): ErrorCurve {
    const rising = this.found.reverse();
    return {
      triangles: rising.map(([n]) => n),
      rms: rising.map(([, rms]) => rms),
    };
  }
}
