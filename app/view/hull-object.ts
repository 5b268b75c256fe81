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
  private surface!: ThreeMesh;
  private edges!: LineSegments;
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
    this.clear();
    [this.surface, this.edges] = hullShape(
      positions,
      triangles,
      hullColour(this.number),
    );
    this.object.add(this.surface, this.edges);
    this.paint();
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
    const fill = this.surface.material as MeshBasicMaterial;
    this.surface.visible = this.solid && !this.heat;
    const line = this.edges.material as LineBasicMaterial;
    fill.opacity = this.chosen ? 0.5 : 0.3;
    line.opacity = this.chosen ? 1 : 0.6;
    line.color.set(this.chosen ? CHOSEN : hullColour(this.number));
    if (!this.chosen) line.color.multiplyScalar(0.5);
  }
}
