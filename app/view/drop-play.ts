import {
  Box3,
  BoxGeometry,
  Group,
  Matrix4,
  Mesh as ThreeMesh,
  MeshStandardMaterial,
  PlaneGeometry,
  Quaternion,
  Vector3,
} from "three";
import { FRAMES } from "../../core/collide/methods/drop-run";
import type { Recording } from "../../core/collide/methods/drop-test";

/** A trial of the drop test as it is played: where each body is, and what it falls on. */
export class DropPlay {
  readonly ground = new Group();
  private readonly began = performance.now();

  constructor(
    readonly recording: Recording,
    size: number,
  ) {
    const { lean, blocks } = recording.ground;
    const stone = new MeshStandardMaterial({
      color: "#b3aca0",
      roughness: 0.95,
    });
    const add = (mesh: ThreeMesh) => {
      mesh.receiveShadow = true;
      this.ground.add(mesh);
    };
    if (lean) {
      const plane = new ThreeMesh(
        new PlaneGeometry(30 * size, 12 * size),
        stone,
      );
      plane.rotation.set(0, 0, lean);
      plane.rotateX(-Math.PI / 2);
      add(plane);
    }
    for (const { half, at } of blocks) {
      const block = new ThreeMesh(
        new BoxGeometry(2 * half[0], 2 * half[1], 2 * half[2]),
        stone,
      );
      block.position.set(...at);
      add(block);
    }
  }

  /** Whether it needs a ground of its own. */
  get hasGround(): boolean {
    return this.ground.children.length > 0;
  }

  get over(): boolean {
    return this.frame() >= this.frames - 1;
  }

  private get frames(): number {
    const { poses, bodies } = this.recording;
    return poses.length / (7 * bodies);
  }

  private frame(): number {
    const seconds = (performance.now() - this.began) / 1000;
    return Math.min(this.frames - 1, Math.floor(seconds * FRAMES));
  }

  /** What it goes through, from where it begins to where it comes to rest. @param size of the asset, metres */
  box(size: number): Box3 {
    const { poses } = this.recording;
    const box = new Box3();
    for (let i = 0; i < poses.length; i += 7)
      box.expandByPoint(new Vector3(poses[i], poses[i + 1], poses[i + 2]));
    return box.expandByScalar(size / 2);
  }

  /** Where each body is now: what moves the asset from where it came. */
  places(): Matrix4[] {
    const { poses, bodies, foot } = this.recording;
    const home = new Matrix4().makeTranslation(-foot[0], -foot[1], -foot[2]);
    return Array.from({ length: bodies }, (_, b) => {
      const at = 7 * (this.frame() * bodies + b);
      const [x, y, z, a, i, j, w] = poses.subarray(at, at + 7);
      return new Matrix4()
        .compose(
          new Vector3(x, y, z),
          new Quaternion(a, i, j, w),
          new Vector3(1, 1, 1),
        )
        .multiply(home);
    });
  }
}
