import type { Landing } from "../shared/view-types";
import type { Mesh } from "../../core/mesh/mesh";
import { tileOf } from "../../core/mesh/tiles";
import { splitOf } from "./split";

/** Cells along the width of the sheet on which islands meet each other while they are dragged. */
const CELLS = 512;

/** Islands that are being dragged: they stop at others, slide along them, and go over them to free places. */
export class SheetDrag {
  /** How far they have come, in UV. */
  x = 0;
  y = 0;
  /** Where the pointer wants them. */
  private wantedX = 0;
  private wantedY = 0;
  private readonly taken = new Uint8Array(CELLS * CELLS * 4);
  private readonly own: number[] = [];
  private readonly up: number;

  /**
   * @param meshes all meshes on the sheet with marks of what is dragged, or null
   * @param aspect height of the sheet against its width
   * @param gap free space kept, as a share of the width
   */
  constructor(
    private readonly meshes: readonly {
      mesh: Mesh;
      marks: Uint8Array | null;
    }[],
    aspect: number,
    gap: number,
  ) {
    this.up = aspect;
    const round = Math.max(0, Math.round(gap * CELLS) - 1);
    const still = new Uint8Array(this.taken.length);
    for (const { mesh, marks } of meshes)
      this.cover(
        mesh,
        (face) => !marks?.[face] && !mesh.copies?.[face],
        (i) => (still[i] = 1),
      );
    const moving = new Uint8Array(this.taken.length);
    for (const { mesh, marks } of meshes)
      if (marks)
        this.cover(
          mesh,
          (face) => marks[face] === 1,
          (i) => (moving[i] = 1),
        );
    moving.forEach((mark, i) => {
      if (mark) this.own.push(i);
    });
    const side = 2 * CELLS;
    still.forEach((mark, i) => {
      if (!mark) return;
      const [x, y] = [i % side, Math.floor(i / side)];
      for (let dy = -round; dy <= round; dy++)
        for (let dx = -round; dx <= round; dx++)
          if (x + dx >= 0 && y + dy >= 0 && x + dx < side && y + dy < side)
            this.taken[(y + dy) * side + x + dx] = 1;
    });
    // What overlaps already does not stop: it may be dragged out.
    if (this.meets(0, 0)) this.taken.fill(0);
  }

  /** Goes on by so much: over others to where there is room, else along them as far as nothing is in the way. */
  by(dx: number, dy: number): void {
    this.wantedX += dx;
    this.wantedY += dy;
    if (!this.meets(this.wantedX, this.wantedY)) {
      this.x = this.wantedX;
      this.y = this.wantedY;
      return;
    }
    const steps = Math.max(
      1,
      Math.ceil((Math.max(Math.abs(dx), Math.abs(dy)) * CELLS) / 2),
    );
    for (let k = 0; k < steps; k++) {
      const [sx, sy] = [dx / steps, dy / steps];
      if (!this.meets(this.x + sx, this.y + sy)) {
        this.x += sx;
        this.y += sy;
      } else if (!this.meets(this.x + sx, this.y)) this.x += sx;
      else if (!this.meets(this.x, this.y + sy)) this.y += sy;
    }
  }

  /** What becomes of the tiles where the islands are let go. */
  landing(): Landing {
    const before = new Set<number>();
    const after = new Set<number>();
    let off = 0;
    const moved: [number, number][] = [];
    for (const { mesh, marks } of this.meshes) {
      const { corners, faces } = splitOf(mesh);
      for (let t = 0; t < faces.length; t++) {
        let [u, v] = [0, 0];
        for (let k = 0; k < 3; k++) {
          u += mesh.uvs![2 * corners[3 * t + k]] / 3;
          v += mesh.uvs![2 * corners[3 * t + k] + 1] / 3;
        }
        before.add(tileOf(u, v));
        if (marks?.[faces[t]]) moved.push([u + this.x, v + this.y]);
        else after.add(tileOf(u, v));
      }
    }
    for (const [u, v] of moved) {
      const tile = tileOf(u, v);
      after.add(tile);
      if (!before.has(tile)) off++;
    }
    after.delete(-1);
    before.delete(-1);
    return { off, tilesBefore: before.size, tilesAfter: after.size };
  }

  private meets(x: number, y: number): boolean {
    const side = 2 * CELLS;
    const [ox, oy] = [Math.round(x * CELLS), Math.round(y * this.up * CELLS)];
    for (const i of this.own) {
      const [cx, cy] = [(i % side) + ox, Math.floor(i / side) + oy];
      if (cx < 0 || cy < 0 || cx >= side || cy >= side) continue;
      if (this.taken[cy * side + cx]) return true;
    }
    return false;
  }

  /** Visits the cells whose middle a face covers. Half a sheet on each side of the first tile takes part. */
  private cover(
    mesh: Mesh,
    is: (face: number) => boolean,
    visit: (cell: number) => void,
  ): void {
    const { uvs } = mesh;
    if (!uvs) return;
    const { corners, faces } = splitOf(mesh);
    const side = 2 * CELLS;
    for (let t = 0; t < faces.length; t++) {
      if (!is(faces[t])) continue;
      const q = [0, 1, 2].flatMap((k) => [
        (uvs[2 * corners[3 * t + k]] + 0.5) * CELLS,
        (uvs[2 * corners[3 * t + k] + 1] * this.up + 0.5) * CELLS,
      ]);
      const x0 = Math.max(0, Math.floor(Math.min(q[0], q[2], q[4])));
      const x1 = Math.min(side - 1, Math.ceil(Math.max(q[0], q[2], q[4])));
      const y0 = Math.max(0, Math.floor(Math.min(q[1], q[3], q[5])));
      const y1 = Math.min(side - 1, Math.ceil(Math.max(q[1], q[3], q[5])));
      for (let y = y0; y <= y1; y++)
        for (let x = x0; x <= x1; x++) {
          const edge = (i: number, j: number) =>
            (q[j] - q[i]) * (y + 0.5 - q[i + 1]) -
            (q[j + 1] - q[i + 1]) * (x + 0.5 - q[i]);
          const [a, b, c] = [edge(0, 2), edge(2, 4), edge(4, 0)];
          if ((a >= 0 && b >= 0 && c >= 0) || (a <= 0 && b <= 0 && c <= 0))
            visit(y * side + x);
        }
    }
  }
}
