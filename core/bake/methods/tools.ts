import { ClosestPoint } from "../../space/closest-point";
import { RayScene } from "../../space/ray-scene";
import type { BakeScene } from "./scene";

/** What one thread keeps for a scene. */
export interface Tools {
  rays: RayScene;
  closest: ClosestPoint[];
  /** 3 × rays: directions about +z (Hammersley set), cosine-weighted within the cone, over the whole sky, and even. */
  cone: Float32Array;
  dome: Float32Array;
  even: Float32Array;
}

const kept = new WeakMap<BakeScene, Tools>();

/** The tools of a scene on this thread, made when they are first asked for. */
export function toolsFor(scene: BakeScene): Tools {
  let tools = kept.get(scene);
  if (!tools) {
    tools = {
      rays: new RayScene(
        scene.targets.map((target) => target.tree),
        scene.rays,
      ),
      closest: scene.targets.map((target) => new ClosestPoint(target.bvh)),
      cone: directionsUp(scene.rays, scene.cone, true),
      dome: directionsUp(scene.rays, Math.PI / 2, true),
      even: directionsUp(scene.rays, Math.PI / 2, false),
    };
    kept.set(scene, tools);
  }
  return tools;
}

function directionsUp(
  count: number,
  cone: number,
  byCosine: boolean,
): Float32Array {
  const dome = new Float32Array(3 * count);
  const widest = Math.sin(Math.min(cone, Math.PI / 2));
  for (let i = 0; i < count; i++) {
    const share = (i + 0.5) / count;
    const r = byCosine
      ? widest * Math.sqrt(share)
      : Math.sqrt(1 - (1 - share) ** 2);
    let bits = i;
    let turn = 0;
    for (let half = 0.5; bits; half /= 2, bits >>= 1) turn += (bits & 1) * half;
    dome[3 * i] = r * Math.cos(2 * Math.PI * turn);
    dome[3 * i + 1] = r * Math.sin(2 * Math.PI * turn);
    dome[3 * i + 2] = Math.sqrt(Math.max(0, 1 - r * r));
  }
  return dome;
}
