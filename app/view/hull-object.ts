import { Group } from "three";
import type {
  LineBasicMaterial,
  LineSegments,
  Mesh as ThreeMesh,
  MeshBasicMaterial,
} from "three";
import type { Hull } from "../../core/mesh/hull";
import { clearGroup } from "./clear-group";
import { hullColour } from "./hull-colours";
import { hullShape } from "./hull-shape";

const CHOSEN = "#c2185b";

/** A hull as it is drawn: as the document has it, or as it is being moved. */
export class HullObject {
  readonly object = new Group();
  private chosen = false;
  private solid = true;
  private isHome = true;
  private surface: ThreeMesh | undefined;
  private edges: LineSegments | undefined;
  /** Colours over it in place of its own. */
  private heat: ThreeMesh | null = null;

  /** @param number of the hull in the asset: each has a colour of its own */
  constructor(
    readonly hull: Hull,
    readonly part: string,
    private readonly number: number,
  ) {
    this.draw(hull);
  }

  /** Shows another shape in its place, as while it is moved. */
  draw({ positions, triangles }: Pick<Hull, "positions" | "triangles">): void {
    this.surface?.removeFromParent();
    this.edges?.removeFromParent();
    this.surface?.geometry.dispose();
    this.edges?.geometry.dispose();
    [this.surface, this.edges] = hullShape(
      positions,
      triangles,
      hullColour(this.number),
    );
    this.object.add(this.surface, this.edges);
    // Colours tell of it where it belongs.
    this.isHome = positions === this.hull.positions;
    this.paint();
  }

  /** What a click meets. */
  get body(): ThreeMesh | undefined {
    return this.surface;
  }

  /** Lets go of what is drawn. */
  clear(): void {
    clearGroup(this.object);
    this.heat = null;
  }

  /** @param solid whether it is filled, or only its edges are drawn */
  applyStyle(chosen: boolean, solid: boolean): void {
    if (chosen === this.chosen && solid === this.solid) return;
    this.chosen = chosen;
    this.solid = solid;
    this.paint();
  }

  /** Lays coloured pieces over it, or takes them away. */
  showHeat(heat: ThreeMesh | null): void {
    if (this.heat) {
      this.heat.removeFromParent();
      this.heat.geometry.dispose();
    }
    this.heat = heat;
    if (heat) this.object.add(heat);
    this.paint();
  }

  private paint(): void {
    const { surface, edges } = this;
    if (!surface || !edges) return;
    const fill = surface.material as MeshBasicMaterial;
    const line = edges.material as LineBasicMaterial;
    const heated = this.heat !== null && this.isHome;
    if (this.heat) this.heat.visible = heated;
    surface.visible = this.solid && !heated;
    fill.opacity = this.chosen ? 0.5 : 0.3;
    line.opacity = this.chosen ? 1 : 0.6;
    line.color.set(this.chosen ? CHOSEN : hullColour(this.number));
    if (!this.chosen) line.color.multiplyScalar(0.5);
  }
}
