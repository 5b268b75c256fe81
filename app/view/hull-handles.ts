import {
  CylinderGeometry,
  Mesh as ThreeMesh,
  MeshBasicMaterial,
  OctahedronGeometry,
  SphereGeometry,
  TorusGeometry,
  Vector3,
} from "three";
import type { BufferGeometry } from "three";
import { mergeGeometries } from "three/addons/utils/BufferGeometryUtils.js";
import type { Handle } from "./hull-drag";

/** One colour an axis: brass, kelp and tide; the middle is ink, and what is held is raspberry. */
export const HANDLE_COLOURS = [
  "#b57f1e",
  "#4f7f3a",
  "#1f6f78",
  "#1e2328",
] as const;
export const HELD_COLOUR = "#c2185b";
/** Sizes of handles, px. */
export const ARM = 74;
export const RING = 66;
export const KNOB = 6;
const BAR = 1.5;
const AXES = [0, 1, 2] as const;

/** A handle, and what is drawn of it. */
export interface ShownHandle {
  handle: Handle;
  mesh: ThreeMesh;
}

/** Points round an axis, about the origin. */
export function ringPoints(axis: Vector3, radius: number): Vector3[] {
  const aside =
    Math.abs(axis.x) < 0.8 ? new Vector3(1, 0, 0) : new Vector3(0, 1, 0);
  const start = aside.cross(axis).setLength(radius);
  return Array.from({ length: 40 }, (_, i) =>
    start.clone().applyAxisAngle(axis, (2 * Math.PI * i) / 40),
  );
}

/** All handles there are, in pixels along y, about the origin. */
export function allHandles(): ShownHandle[] {
  const arm = mergeGeometries(
    [
      new CylinderGeometry(BAR, BAR, ARM - 14, 8).translate(
        0,
        14 + (ARM - 14) / 2,
        0,
      ),
      new OctahedronGeometry(KNOB)
        .translate(0, ARM, 0)
        .toNonIndexed() as BufferGeometry,
    ].map((each) => (each.index ? each.toNonIndexed() : each)),
  );
  const ring = new TorusGeometry(RING, BAR, 6, 64).rotateX(Math.PI / 2);
  const knob = new SphereGeometry(KNOB, 16, 10);
  const dot = new OctahedronGeometry(KNOB + 2);
  const shown = (handle: Handle, geometry: BufferGeometry): ShownHandle => {
    const mesh = new ThreeMesh(
      geometry,
      new MeshBasicMaterial({
        depthTest: false,
        depthWrite: false,
        transparent: true,
      }),
    );
    mesh.renderOrder = 20;
    mesh.frustumCulled = false;
    return { handle, mesh };
  };
  return [
    ...AXES.flatMap((axis) => [
      shown({ what: "move", axis, way: 1 }, arm),
      shown({ what: "turn", axis, way: 1 }, ring),
      shown({ what: "size", axis, way: 1 }, knob),
      shown({ what: "size", axis, way: -1 }, knob),
    ]),
    shown({ what: "slide", axis: 0, way: 1 }, dot),
  ];
}
