import {
  Matrix4,
  Mesh as ThreeMesh,
  MeshStandardMaterial,
  PlaneGeometry,
} from "three";
import type { Scene } from "three";
import { recordDrop } from "../../core/collide/methods/drop-test";
import type { Hull } from "../../core/mesh/hull";
import { boundsOf, diagonalOf } from "../../core/space/bounds";
import type { FromView, ToView } from "../shared/messages";
import { DropPlay } from "./drop-play";
import type { TableScene } from "./table-scene";
import type { Camera } from "../shared/view-types";

const HOME = [new Matrix4()];

/** The drop test as it is played on the table, with what lies there. */
export class TableDrop {
  private play: DropPlay | null = null;
  private floor: ThreeMesh | null = null;
  private camera: Camera | null = null;
  private turn = 0;

  constructor(
    private readonly table: TableScene,
    private readonly scene: Scene,
    private readonly post: (message: FromView) => void,
    private readonly draw: () => void,
  ) {}

  /** Where what lies on the table is drawn: once, or once for each body of the trial. */
  bodies(): Matrix4[] {
    return this.play?.places() ?? HOME;
  }

  get isPlaying(): boolean {
    return this.play !== null;
  }

  /** Lets hulls fall, or puts all back. */
  async go(
    { trial, slope, friction }: Extract<ToView, { kind: "drop" }>,
    hulls: readonly Hull[],
  ): Promise<void> {
    const turn = ++this.turn;
    if (!trial || !hulls.length) {
      this.stop();
      return;
    }
    const options = { slope, friction };
    const recording = await recordDrop(hulls, options, trial, () => {});
    if (turn !== this.turn) return;
    const at = this.camera ?? this.table.orbit.at;
    this.clear();
    this.camera = at && { ...at, target: [...at.target] };
    const size = diagonalOf(boundsOf(...hulls.map((each) => each.positions)));
    this.play = new DropPlay(recording, size);
    this.scene.add(this.play.ground);
    if (!this.play.hasGround) this.scene.add((this.floor = floorOf(size)));
    const { width, height } = this.table.clear();
    this.table.orbit.frame(this.play.box(size), width / height);
    this.post({ kind: "dropped", trial: recording.trial, over: false });
    this.step(turn);
  }

  /** Puts everything back where it was, the camera as well. */
  stop(): void {
    this.turn++;
    if (!this.play) return;
    this.clear();
    if (this.camera) {
      this.table.orbit.at = this.camera;
      this.post({ kind: "camera", camera: this.camera });
    }
    this.camera = null;
    this.post({ kind: "dropped", trial: null, over: true });
    this.draw();
  }

  private clear(): void {
    this.play?.ground.removeFromParent();
    this.floor?.removeFromParent();
    this.play = this.floor = null;
  }

  private step(turn: number): void {
    if (turn !== this.turn || !this.play) return;
    this.draw();
    if (this.play.over) {
      const { trial } = this.play.recording;
      this.post({ kind: "dropped", trial, over: true });
    } else requestAnimationFrame(() => this.step(turn));
  }
}

/** What things fall on that have no slope or steps. @param size of the asset, metres */
function floorOf(size: number): ThreeMesh {
  const floor = new ThreeMesh(
    new PlaneGeometry(60 * size, 60 * size).rotateX(-Math.PI / 2),
    new MeshStandardMaterial({
      color: "#b3aca0",
      roughness: 0.95,
      polygonOffset: true,
      polygonOffsetFactor: 2,
      polygonOffsetUnits: 2,
    }),
  );
  return floor;
}
