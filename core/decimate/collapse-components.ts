import { buildBvh } from "../space/bvh";
import { ClosestPoint } from "../space/closest-point";
import { triangleArea } from "../space/sample";
import type { CornerLists } from "./collapse-planes";
import type { Soup } from "./soup";

/**
 * Numbers the vertices by component; returns how many components there are.
 * @param component vertexCount: the number of each is put here
 */
export function nameComponents(
  soup: Soup,
  { firstCorner, nextCorner }: CornerLists,
  component: Uint32Array,
): number {
  const { triangles } = soup;
  component.fill(0xffffffff);
  const stack = new Uint32Array(component.length);
  let count = 0;
  for (let v = 0; v < component.length; v++) {
    if (component[v] !== 0xffffffff || firstCorner[v] < 0) continue;
    component[v] = count;
    let top = 0;
    stack[top++] = v;
    while (top) {
      for (let c = firstCorner[stack[--top]]; c >= 0; c = nextCorner[c]) {
        const base = 3 * ((c / 3) | 0);
        for (let k = 0; k < 3; k++) {
          const w = triangles[base + k];
          if (component[w] !== 0xffffffff) continue;
          component[w] = count;
          stack[top++] = w;
        }
      }
    }
    count++;
  }
  return count;
}

/** What giving up each component would cost: its area × mean squared distance to the others, metres⁴; and its area. */
export function costComponents(
  soup: Soup,
  component: Uint32Array,
  tally: Int32Array,
): { cost: Float64Array; area: Float64Array } {
  const { triangles, positions } = soup;
  const area = new Float64Array(tally.length);
  if (tally.length < 2) return { cost: area, area };
  const count = soup.owner.length;
  const points = new Float32Array(positions);
  const componentOf = new Uint32Array(count);
  for (let t = 0; t < count; t++) componentOf[t] = component[triangles[3 * t]];
  const closest = new ClosestPoint(buildBvh(points, triangles), componentOf);
  const sum = new Float64Array(tally.length);
  const taken = new Float64Array(tally.length);
  const turn = new Uint32Array(tally.length);
  for (let t = 0; t < count; t++) {
    const c = componentOf[t];
    const size = triangleArea(positions, triangles, t);
    area[c] += size;
    if (turn[c]++ % Math.ceil(tally[c] / 24)) continue;
    // From the middle: vertices of a patch may all lie on what it closes.
    const i = 3 * triangles[3 * t];
    const j = 3 * triangles[3 * t + 1];
    const k = 3 * triangles[3 * t + 2];
    closest.find(
      (positions[i] + positions[j] + positions[k]) / 3,
      (positions[i + 1] + positions[j + 1] + positions[k + 1]) / 3,
      (positions[i + 2] + positions[j + 2] + positions[k + 2]) / 3,
      Infinity,
      c,
    );
    sum[c] += size * Math.min(closest.distance2, 1e12);
    taken[c] += size;
  }
  return {
    cost: area.map((size, c) =>
      taken[c] > 0 ? (size * sum[c]) / taken[c] : 0,
    ),
    area,
  };
}
