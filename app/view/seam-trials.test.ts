import { describe, expect, it } from "vitest";
import { cube, sphere } from "../../tests/shapes";
import { buildEdges } from "../../core/mesh/edges";
import type { Mesh } from "../../core/mesh/mesh";
import { faceCount } from "../../core/mesh/mesh";
import { edgeName } from "./picking";
import type { TrialInput, TrialOutput, TrialWorker } from "./seam-trials";
import { SeamTrials } from "./seam-trials";
import { SheetDrag } from "./sheet-drag";
import { Tracing } from "./tracing";

/** A worker that answers when it is told to. */
class Held implements TrialWorker {
  readonly asked: TrialInput[] = [];
  onmessage: TrialWorker["onmessage"] = null;
  postMessage(input: TrialInput) {
    this.asked.push(input);
  }
  answer(at: number) {
    const { turn } = this.asked[at];
    this.onmessage?.({ data: { turn, islands: at } } as MessageEvent);
  }
}

describe("trials of seams", () => {
  const made = () => {
    const worker = new Held();
    const told: [string, number][] = [];
    const trials = new SeamTrials<string>(
      () => worker,
      (about, { islands }: TrialOutput) => told.push([about, islands]),
    );
    const want = (key: string) =>
      trials.want(key, key, cube(), { width: 64, height: 64 });
    return { worker, told, trials, want };
  };

  it("skip what nobody waits for any more: the one at hand ends, then the newest", () => {
    const { worker, told, want } = made();
    for (const key of ["a", "b", "c", "d"]) want(key);
    expect(worker.asked).toHaveLength(1);
    worker.answer(0);
    // What it was asked about is not wanted now: it is not shown.
    expect(told).toEqual([]);
    expect(worker.asked).toHaveLength(2);
    worker.answer(1);
    expect(told).toEqual([["d", 1]]);
  });

  it("are asked once for the same question, and dropped with their tool", () => {
    const { worker, told, trials, want } = made();
    want("a");
    want("a");
    trials.drop();
    worker.answer(0);
    expect([worker.asked.length, told.length]).toEqual([1, 0]);
    want("a");
    worker.answer(1);
    expect(told).toEqual([["a", 1]]);
  });
});

describe("a seam that is traced", () => {
  const view = { name: "ball", gameMesh: sphere(12, 16) };
  const other = { name: "box", gameMesh: cube() };
  const begun = (...points: number[]) => {
    const tracing = new Tracing(() => 1);
    for (const vertex of points) expect(tracing.add(view, vertex)).toBeNull();
    return tracing;
  };
  /** Whether edges, by name, run from one vertex to another without a gap. */
  const leads = (names: readonly string[], from: number, to: number) => {
    const next = new Map<number, number[]>();
    for (const name of names) {
      const [a, b] = /:(\d+)-(\d+)$/.exec(name)!.slice(1).map(Number);
      next.set(a, [...(next.get(a) ?? []), b]);
      next.set(b, [...(next.get(b) ?? []), a]);
    }
    const seen = new Set([from]);
    const waiting = [from];
    for (let v; (v = waiting.pop()) !== undefined;)
      for (const w of next.get(v) ?? [])
        if (!seen.has(w)) waiting.push((seen.add(w), w));
    return seen.has(to);
  };

  it("goes through its waypoints, whichever is moved or taken out", () => {
    const tracing = begun(20, 60, 100, 140);
    expect(leads(tracing.edges(), 20, 140)).toBe(true);
    tracing.remove(1);
    expect(tracing.count).toBe(3);
    expect(leads(tracing.edges(), 20, 100)).toBe(true);
    const at = view.gameMesh.positions.subarray(3 * 100, 3 * 100 + 3);
    const held = tracing.grab(
      (x, y, z) =>
        x === at[0] && y === at[1] && z === at[2] ? [5, 5] : [99, 99],
      9,
      2,
    );
    expect(held).toBe(1);
    tracing.moveHeld(view, 75);
    expect(leads(tracing.edges(), 20, 75)).toBe(true);
    expect(leads(tracing.edges(), 75, 140)).toBe(true);
    // What is not on the same part does not move it.
    tracing.moveHeld(other, 2);
    expect(leads(tracing.edges(), 75, 140)).toBe(true);
    tracing.back();
    tracing.back();
    expect([tracing.count, tracing.edges()]).toEqual([1, []]);
    tracing.back();
    expect(tracing.count).toBe(0);
  });

  it("is the same, moved to where it is, as drawn there at first", () => {
    const moved = begun(20, 61, 140);
    moved.grab((x, y) => [x, y], 0, 0);
    const p = view.gameMesh.positions;
    moved.grab(
      (x, y, z) =>
        x === p[183] && y === p[184] && z === p[185] ? [0, 0] : [99, 0],
      0,
      0,
    );
    moved.moveHeld(view, 60);
    expect(moved.edges().sort()).toEqual(begun(20, 60, 140).edges().sort());
  });

  it("stays when a click is not taken, with the reason", () => {
    const tracing = begun(20, 60);
    const before = tracing.edges();
    expect(tracing.add(other, 3)).toContain("lies on ball");
    expect(tracing.add(view, 60)).toContain("there already");
    expect(tracing.grab(() => [50, 50], 5, 5)).toBe(-1);
    expect([tracing.count, tracing.edges()]).toEqual([2, before]);
    tracing.clear();
    expect(tracing.add(other, 3)).toBeNull();
  });

  it("is asked about as a mesh with its edges as seams", () => {
    const tracing = begun(20, 60);
    expect(tracing.wanted([], new Map([["ball", view]]))).toBeNull();
    const laid: Mesh = {
      ...view.gameMesh,
      uvs: new Float32Array(2 * view.gameMesh.corners.length),
    };
    const on = { name: "ball", gameMesh: laid };
    const { mesh } = tracing.wanted([], new Map([["ball", on]]))!;
    const edges = buildEdges(mesh);
    const cut: string[] = [];
    for (let e = 0; e < edges.count; e++)
      if (mesh.seams![edges.first[e]])
        cut.push(
          edgeName("ball", edges.vertices[2 * e], edges.vertices[2 * e + 1]),
        );
    expect(cut.sort()).toEqual(tracing.edges().sort());
  });
});

describe("islands that are dragged", () => {
  /** A square on the sheet, its lower left corner at a place. */
  const square = (u: number, v: number): Mesh => {
    const mesh = cube();
    const uvs = new Float32Array(2 * mesh.corners.length);
    for (let f = 0; f < faceCount(mesh); f++)
      for (let k = 0; k < 4; k++) {
        uvs[2 * (4 * f + k)] = u + (k === 1 || k === 2 ? 0.1 : 0);
        uvs[2 * (4 * f + k) + 1] = v + (k > 1 ? 0.1 : 0);
      }
    return { ...mesh, uvs };
  };
  const drag = (x: number, y: number) => {
    const moving = square(0.1, 0.1);
    const on = new SheetDrag(
      [
        { mesh: moving, marks: new Uint8Array(6).fill(1) },
        { mesh: square(0.6, 0.6), marks: null },
      ],
      1,
      0,
    );
    on.by(x, y);
    return on.landing();
  };

  it("land on the sheet, on another tile, or on none", () => {
    expect(drag(0.2, 0)).toEqual({ off: 0, tilesBefore: 1, tilesAfter: 1 });
    expect(drag(1, 0)).toEqual({ off: 12, tilesBefore: 1, tilesAfter: 2 });
    expect(drag(-0.5, 0)).toEqual({ off: 12, tilesBefore: 1, tilesAfter: 1 });
  });
});
