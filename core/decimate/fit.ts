import type { ClosestPoint } from "../space/closest-point";
import { flipEdges } from "./fit-flip";
import { moveVertices } from "./fit-move";
import type { FitError } from "./fit-state";
import { FitState } from "./fit-state";
import { insertVertices } from "./insert-vertices";
import type { SurfaceSamples } from "./samples";
import type { Triangles } from "./soup";

/** Sweeps over the vertices in each round of projecting and moving. */
const SWEEPS = 3;

/**
 * A reduced mesh that is brought nearer to its source: vertices move by least squares over points of the source
 * and where they fall on the mesh (Hoppe et al. 1993), mostly along their normals, edges flip where that lowers
 * the distance, and vertices are put in where it is worst. Borders stay; vertices between regions move along
 * their normal only. Triangles keep their side and shape.
 */
export class Fit {
  private readonly state: FitState;

  /**
   * @param mesh one mesh of a state, about the same origin as the samples; its positions and triangles change
   * @param near a finer state of the same mesh: where the mesh itself strays from it, it is drawn back
   * @param nearest a search over `near`, where there is one already
   * @param stays places of vertices that are held, and whose edges do not flip; see `placeKey` of fit-state
   * @param free lets edges flip and vertices slide easily; otherwise they mostly move along their normal
   */
  constructor(
    readonly mesh: Triangles,
    private readonly samples: Pick<SurfaceSamples, "points" | "normals">,
    private readonly near: Pick<Triangles, "positions" | "triangles">,
    nearest?: ClosestPoint,
    private readonly free = true,
    private readonly stays: ReadonlySet<string> | null = null,
  ) {
    this.state = new FitState(mesh, samples, near, nearest, stays);
  }

  /** @param from the first round looks at all alike, later ones harder at what is far off */
  run(from: number, to: number, check: () => void): void {
    for (let round = from; round < to; round++) {
      check();
      this.state.project();
      this.state.weigh(round);
      if (round > 0 && this.free) flipEdges(this.state);
      for (let sweep = 0; sweep < SWEEPS; sweep++)
        moveVertices(this.state, this.free);
    }
  }

  /** How far source and mesh are from each other, sums of squares and the largest square, metres². */
  error(): FitError {
    return this.state.error();
  }

  /**
   * A fit of another mesh to the same samples.
   * @param nowAt per triangle of this mesh: the triangle of the other that it became, or −1
   */
  with(mesh: Triangles, nowAt?: Int32Array): Fit {
    const next = new Fit(
      mesh,
      this.samples,
      this.near,
      this.state.nearest,
      this.free,
      this.stays,
    );
    if (nowAt) this.state.handOn(next.state, nowAt);
    return next;
  }

  /** The squared distances of the worst `most` places, one a triangle, worst first. */
  worst(most: number): number[] {
    this.state.project();
    return this.state.worstSamples(most).map((i) => this.state.distance2(i));
  }

  /** The mesh with a vertex more at each of the worst places, two triangles each, as a new fit. */
  refined(places: number): Fit {
    const { mesh, state } = this;
    const worst = state.worstSamples(16 * places + 16).map((i) => ({
      triangle: state.on[i],
      u: state.u[i],
      v: state.v[i],
      point: state.points.subarray(3 * i, 3 * i + 3),
    }));
    return this.with(
      insertVertices({ ...mesh, positions: state.p }, worst, places),
      Int32Array.from(mesh.owner, (_, t) => t),
    );
  }
}
