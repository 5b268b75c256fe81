import type { Material } from "three";
import {
  ACESFilmicToneMapping,
  Group,
  InstancedMesh,
  Matrix4,
  MeshStandardMaterial,
  PCFShadowMap,
  PerspectiveCamera,
  Scene,
  Texture,
  Vector3,
  WebGLRenderer,
} from "three";
import { hullColour } from "../view/hull-colours";
import { hullShape } from "../view/hull-shape";
import { Orbit } from "../view/orbit";
import type { DropPlay } from "../view/drop-play";
import { levelFor, rowsOf, shareOf } from "./levels";
import type { Drawn, YardState } from "./messages";
import type { Delivery } from "./open-delivery";
import { Surroundings } from "./surroundings";
import { Walker } from "./walker";

const FOV = 42;

/** Draws a delivery as an engine would: a call for each material and level, however many copies there are. */
export class YardScene {
  readonly orbit = new Orbit();
  readonly walker = new Walker();
  private readonly renderer: WebGLRenderer;
  private readonly scene = new Scene();
  private readonly camera = new PerspectiveCamera();
  private readonly surroundings: Surroundings;
  private readonly asset = new Group();
  private readonly hulls = new Group();
  private delivery: Delivery | null = null;
  private state: YardState | null = null;
  /** For each level its meshes, one a material. */
  private meshes: InstancedMesh[][] = [];
  private places: Matrix4[] = [new Matrix4()];
  private play: DropPlay | null = null;
  private width = 1;
  private height = 1;
  private sceneryCalls: number | null = null;

  constructor(canvas: OffscreenCanvas) {
    this.renderer = new WebGLRenderer({ canvas, antialias: true });
    this.renderer.shadowMap.enabled = true;
    this.renderer.shadowMap.type = PCFShadowMap;
    this.renderer.toneMapping = ACESFilmicToneMapping;
    this.renderer.info.autoReset = false;
    this.surroundings = new Surroundings(this.renderer, this.scene);
    this.scene.add(this.asset, this.hulls);
  }

  size(width: number, height: number, ratio: number): void {
    this.width = Math.max(1, width);
    this.height = Math.max(1, height);
    this.renderer.setPixelRatio(ratio);
    this.renderer.setSize(this.width, this.height, false);
  }

  /** Puts a delivery into the yard in the place of what stood there. */
  show(delivery: Delivery): void {
    for (const material of materialsOf(this.delivery)) {
      for (const value of Object.values(material))
        if (value instanceof Texture) value.dispose();
      material.dispose();
    }
    for (const { geometry } of this.delivery?.levels.flat() ?? [])
      geometry.dispose();
    this.delivery = delivery;
    this.clearMeshes();
    this.setPlay(null);
    this.setPlaces();
    this.frame();
  }

  set(state: YardState): void {
    const before = this.state;
    this.state = state;
    if (before?.copies !== state.copies) this.setPlaces();
    if (before && before.walking !== state.walking) this.frame();
    this.look();
  }

  /** Shows a trial of the drop test, or none. */
  playing(play: DropPlay | null): void {
    this.setPlay(play);
    this.setPlaces();
    this.frame();
  }

  private setPlay(play: DropPlay | null): void {
    if (this.play) this.scene.remove(this.play.ground);
    this.play = play;
    if (play) this.scene.add(always(play.ground));
    this.surroundings.floorShown(!play?.hasGround);
  }

  private clearMeshes(): void {
    for (const mesh of this.meshes.flat()) mesh.dispose();
    this.asset.clear();
    this.meshes = [];
  }

  /** Looks at what stands there: from before it where one walks. */
  frame(): void {
    const { delivery, state } = this;
    if (!delivery) return;
    const { box } = delivery;
    const size = box.getSize(new Vector3());
    if (state?.walking)
      this.walker.standBefore(box.max.y, Math.max(size.x, size.z) / 2);
    else
      this.orbit.frame(
        this.play?.box(size.length()) ?? box,
        this.width / this.height,
      );
  }

  get isMoving(): boolean {
    return Boolean(this.play && !this.play.over);
  }

  private get reach(): number {
    const { box } = this.delivery!;
    const { x, z } = box.getSize(new Vector3());
    return Math.max(x, z);
  }

  /** Where copies stand, and meshes that have room for them. */
  private setPlaces(): void {
    const { delivery, state } = this;
    if (!delivery || !state) return;
    const copies = this.play ? this.play.recording.bodies : state.copies;
    const gap = 1.7 * this.reach;
    this.places = rowsOf(copies, gap).map(([x, z]) =>
      new Matrix4().makeTranslation(x, 0, z),
    );
    if (this.meshes[0]?.[0]?.instanceMatrix.count !== copies) {
      this.clearMeshes();
      this.meshes = delivery.levels.map((batches) =>
        batches.map(({ geometry, material }) => {
          const mesh = new InstancedMesh(geometry, material, copies);
          mesh.castShadow = mesh.receiveShadow = true;
          mesh.frustumCulled = false;
          this.asset.add(mesh);
          return mesh;
        }),
      );
    }
    this.setHulls(copies);
    this.look();
  }

  private setHulls(copies: number): void {
    this.hulls.clear();
    // Of very many copies those nearest are enough to see.
    for (let i = 0; i < Math.min(copies, 9); i++) {
      const group = new Group();
      this.delivery!.hulls.forEach(({ positions, triangles }, h) =>
        group.add(...hullShape(positions, triangles, hullColour(h))),
      );
      group.matrixAutoUpdate = false;
      this.hulls.add(always(group));
    }
  }

  /** What of the state is seen in materials and light. */
  private look(): void {
    const { delivery, state } = this;
    if (!delivery || !state) return;
    for (const material of materialsOf(delivery)) {
      if (!(material instanceof MeshStandardMaterial)) continue;
      material.wireframe = state.wire;
      const { normalScale } = material;
      normalScale.y = (state.wrongGreen ? -1 : 1) * Math.abs(normalScale.y);
    }
    this.hulls.visible = state.hulls;
    this.sceneryCalls = null;
    const size = delivery.box.getSize(new Vector3()).length() / 2;
    this.surroundings.light(
      state.light,
      size,
      1.7 * this.reach * Math.sqrt(this.places.length),
    );
  }

  /** Draws a picture. @returns what it took */
  draw(): Drawn | null {
    const { delivery, state, renderer, camera } = this;
    const began = performance.now();
    const aspect = this.width / this.height;
    if (state?.walking) this.walker.place(camera, aspect, FOV);
    else {
      this.orbit.place(camera, aspect);
      // The sky is far, however near the eye is.
      camera.far = 900;
      camera.near = Math.max(0.001, camera.near);
      camera.updateProjectionMatrix();
      // Nobody looks from under the ground.
      camera.position.y = Math.max(0.02, camera.position.y);
    }
    if (!delivery || !state) {
      renderer.render(this.scene, camera);
      return null;
    }
    if (this.play) this.places = this.play.places();
    const byLevel = this.choose();
    const all = this.calls(true);
    if (this.sceneryCalls === null) {
      this.sceneryCalls = this.calls(false);
      this.calls(true);
    }
    return {
      calls: all - this.sceneryCalls,
      scenery: this.sceneryCalls,
      triangles: byLevel.reduce(
        (sum, count, l) => sum + count * delivery.facts.levels[l].triangles,
        0,
      ),
      byLevel,
      milliseconds: performance.now() - began,
    };
  }

  /** Draws, with the delivery or without, and counts the calls. Hulls are no part of it: an engine does not draw them. */
  private calls(withAsset: boolean): number {
    const { renderer } = this;
    this.asset.visible = withAsset;
    renderer.info.reset();
    renderer.render(this.scene, this.camera);
    const { calls } = renderer.info.render;
    this.asset.visible = true;
    return calls;
  }

  /** Gives every copy to the level that it is drawn at. @returns how many each has */
  private choose(): number[] {
    const { delivery, state, camera } = this;
    const { box, shares } = delivery!;
    const middle = box.getCenter(new Vector3());
    const radius = box.getSize(new Vector3()).length() / 2;
    const slope = Math.tan((camera.fov * Math.PI) / 360);
    const counts = this.meshes.map(() => 0);
    for (const place of this.places) {
      const distance = middle
        .clone()
        .applyMatrix4(place)
        .distanceTo(camera.position);
      const level =
        state!.level < 0
          ? levelFor(shares, shareOf(radius, distance, slope))
          : Math.min(state!.level, this.meshes.length - 1);
      for (const mesh of this.meshes[level])
        mesh.setMatrixAt(counts[level], place);
      counts[level]++;
    }
    this.meshes.forEach((list, l) => {
      for (const mesh of list) {
        mesh.count = counts[l];
        mesh.visible = counts[l] > 0;
        mesh.instanceMatrix.needsUpdate = true;
      }
    });
    this.hulls.children.forEach((group, i) => {
      group.matrix.copy(this.places[i] ?? this.places[0]);
      group.visible = i < this.places.length;
      group.matrixWorldNeedsUpdate = true;
    });
    return counts;
  }
}

/** Lets all of a group be drawn wherever one looks: what is about the delivery takes as many calls in every picture. */
function always(group: Group): Group {
  group.traverse((each) => (each.frustumCulled = false));
  return group;
}

const materialsOf = (delivery: Delivery | null): Set<Material> =>
  new Set(delivery?.levels.flat().map(({ material }) => material));
