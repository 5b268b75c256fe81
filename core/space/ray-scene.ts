import type { Bvh } from "./bvh";
import { NODE_LINKS, leafCount, leafStart } from "./bvh";
import { RAY_KERNEL } from "./ray-kernel";

const NODE_WORDS = 32;
const GROUP_WORDS = 36;
/** Bytes kept at the start of the memory: results and the stack of the walk, then where a look round begins. */
const RESERVED = 4096 + 8192;

interface Kernel {
  first(...args: number[]): number;
  any(...args: number[]): number;
  sky(...args: number[]): number;
}

interface Tree {
  nodes: number;
  groups: number;
  root: number;
  /** 4 × groupCount: the triangle as the caller numbered it. */
  ids: Uint32Array;
}

/** A hierarchy with four children a node, and triangles in groups of four: what one SIMD instruction takes. */
export interface WideBvh {
  /** 32 words a node: minX ×4, minY ×4, minZ ×4, maxX ×4, maxY ×4, maxZ ×4, links ×4, nothing ×4. */
  nodes: Float32Array;
  /** 36 words a group: first corner, first edge, second edge, each as x ×4, y ×4, z ×4. */
  groups: Float32Array;
  /** 4 × groupCount */
  ids: Uint32Array;
  /** A link ≥ 0 is a node, below 0 it is the group −1 − link. */
  root: number;
}

/**
 * Folds a hierarchy of two children a node into one of four: a node takes in the children of its largest
 * child until it has four (Wald et al. 2008). Every leaf becomes one group.
 */
export function widen(bvh: Bvh): WideBvh {
  const source = bvh.nodes;
  const words: number[] = [];
  const groups: number[] = [];
  const ids: number[] = [];
  const group = (leaf: number) => {
    const start = leafStart(leaf);
    const count = leafCount(leaf);
    const at = groups.length;
    for (let k = 0; k < GROUP_WORDS; k++) groups.push(0);
    for (let lane = 0; lane < 4; lane++) {
      ids.push(lane < count ? bvh.ids[start + lane] : 0);
      for (let k = 0; k < 9 && lane < count; k++)
        groups[at + 4 * k + lane] = bvh.triangles[9 * (start + lane) + k];
    }
    return -1 - at / GROUP_WORDS;
  };
  const areaAt = (box: number) => {
    const x = source[box + 3] - source[box];
    const y = source[box + 4] - source[box + 1];
    const z = source[box + 5] - source[box + 2];
    return x * y + y * z + z * x;
  };
  const links: [number, number][] = [];
  // [word of the narrow node, place of the link to it in `words`]
  const waiting: [number, number][] = [[0, -1]];
  while (waiting.length) {
    const [narrow, link] = waiting.pop()!;
    // Children as [link, place of its box].
    const children: [number, number][] = [0, 1].map((side) => [
      bvh.links[narrow + NODE_LINKS + side],
      narrow + 6 * side,
    ]);
    while (children.length < 4) {
      let largest = -1;
      for (let k = 0; k < children.length; k++)
        if (
          children[k][0] >= 0 &&
          (largest < 0 || areaAt(children[k][1]) > areaAt(children[largest][1]))
        )
          largest = k;
      if (largest < 0) break;
      const [inner] = children[largest];
      children.splice(
        largest,
        1,
        [bvh.links[inner + NODE_LINKS], inner],
        [bvh.links[inner + NODE_LINKS + 1], inner + 6],
      );
    }
    const at = words.length;
    if (link >= 0) links.push([link, at / NODE_WORDS]);
    for (let k = 0; k < NODE_WORDS; k++)
      words.push(k < 12 ? Infinity : k < 24 ? -Infinity : 0);
    children.forEach(([child, box], lane) => {
      if (child < 0 && leafCount(child) === 0) return;
      for (let k = 0; k < 6; k++) words[at + 4 * k + lane] = source[box + k];
      if (child < 0) links.push([at + 24 + lane, group(child)]);
    });
    for (let lane = children.length - 1; lane >= 0; lane--)
      if (children[lane][0] >= 0)
        waiting.push([children[lane][0], at + 24 + lane]);
  }
  const nodes = new Float32Array(words);
  const view = new Int32Array(nodes.buffer);
  for (const [at, to] of links) view[at] = to;
  return {
    nodes,
    groups: new Float32Array(groups),
    ids: new Uint32Array(ids),
    root: 0,
  };
}

/**
 * Casts rays at one or more hierarchies. One scene a thread; what `first` found stays in the fields until the
 * next call. Both sides of a triangle count as hits.
 *
 * Notes: four boxes or four triangles are tested at once by a WebAssembly kernel with SIMD (kernel/rays.ts);
 * the same walk in TypeScript, one box after the other, reached 0.3 to 0.4 of its speed. Numbers are f32, with
 * neighbouring triangles overlapping by a millionth so that no ray slips between them. The kernel's memory is
 * private to the thread: to share it would need isolation headers in a browser and saves only one copy.
 */
export class RayScene {
  /** Distance to the hit, in lengths of the direction. */
  distance = 0;
  /** Weights of the second and the third corner at the hit. */
  u = 0;
  v = 0;
  /** Dot product of direction and the triangle's (not unit) normal: negative for a front face. */
  facing = 0;
  private readonly kernel: Kernel;
  private readonly result: Float32Array;
  private readonly trees: Tree[] = [];
  /** Directions of the rays of a look round: x of as many as are asked about, then y, then z. */
  readonly directions: Float32Array;
  private readonly directionsAt: number;

  /** @param rays the most directions that `sky` is asked about at once */
  constructor(trees: readonly WideBvh[], rays = 0) {
    let bytes = RESERVED + 12 * rays;
    for (const tree of trees)
      bytes += tree.nodes.byteLength + tree.groups.byteLength + 16;
    const memory = new WebAssembly.Memory({
      initial: Math.ceil(bytes / 65536),
    });
    let at = RESERVED;
    const place = (words: Float32Array) => {
      const start = at;
      new Float32Array(memory.buffer, start, words.length).set(words);
      at += words.byteLength;
      return start;
    };
    this.directionsAt = at;
    this.directions = new Float32Array(memory.buffer, at, 3 * rays);
    at += 12 * rays;
    for (const tree of trees)
      this.trees.push({
        nodes: place(tree.nodes),
        groups: place(tree.groups),
        root: tree.root,
        ids: tree.ids,
      });
    this.kernel = new WebAssembly.Instance(compiled(), { env: { memory } })
      .exports as unknown as Kernel;
    this.result = new Float32Array(memory.buffer, 0, 4);
  }

  /** The nearest triangle of a tree (the caller's number) between two distances along the ray, or −1. */
  first(
    tree: number,
    ox: number,
    oy: number,
    oz: number,
    dx: number,
    dy: number,
    dz: number,
    near: number,
    far: number,
  ): number {
    const { nodes, groups, root, ids } = this.trees[tree];
    const place = this.kernel.first(
      nodes,
      groups,
      root,
      ox,
      oy,
      oz,
      dx,
      dy,
      dz,
      near,
      far,
    );
    if (place < 0) return -1;
    this.distance = this.result[0];
    this.u = this.result[1];
    this.v = this.result[2];
    this.facing = this.result[3];
    return ids[place];
  }

  /** Whether anything of a tree lies between two distances along the ray. */
  any(
    tree: number,
    ox: number,
    oy: number,
    oz: number,
    dx: number,
    dy: number,
    dz: number,
    near: number,
    far: number,
  ): boolean {
    const { nodes, groups, root } = this.trees[tree];
    return (
      this.kernel.any(
        nodes,
        groups,
        root,
        ox,
        oy,
        oz,
        dx,
        dy,
        dz,
        near,
        far,
      ) !== 0
    );
  }

  /**
   * How many of the first `count` rays in `directions`, from a point, leave without meeting anything of a tree nearer than `far`
   * lengths of their direction; the others' directions are 0 afterwards. All of them must lie above the plane of the unit normal. As many calls of `any` give
   * the same; this one walks down to the point once for all rays (docs/measuring.md).
   */
  sky(
    tree: number,
    ox: number,
    oy: number,
    oz: number,
    nx: number,
    ny: number,
    nz: number,
    far: number,
    count = this.directions.length / 3,
  ): number {
    const { nodes, groups, root } = this.trees[tree];
    return this.kernel.sky(
      nodes,
      groups,
      root,
      ox,
      oy,
      oz,
      nx,
      ny,
      nz,
      this.directionsAt,
      count,
      far,
    );
  }
}

let module: WebAssembly.Module | null = null;

function compiled(): WebAssembly.Module {
  module ??= new WebAssembly.Module(
    Uint8Array.from(atob(RAY_KERNEL), (char) => char.charCodeAt(0)),
  );
  return module;
}
