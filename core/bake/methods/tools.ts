import { ClosestPoint } from "../../space/closest-point";
import { RayScene } from "../../space/ray-scene";
import type { Fan } from "./fans";
import { curveRays, evenFan, weightedFan } from "./fans";
import type { BakeScene } from "./scene";

/** What one thread keeps for a scene. */
export interface Tools {
  rays: RayScene;
  closest: ClosestPoint[];
  /** Directions about +z: cosine-weighted within the cone, over the whole sky, and even. */
  cone: Fan;
  dome: Fan;
  even: Fan;
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
      cone: weightedFan(scene.rays, scene.cone),
      dome: weightedFan(scene.rays, Math.PI / 2),
      even: evenFan(curveRays(scene.rays)),
    };
    kept.set(scene, tools);
  }
  return tools;
}
