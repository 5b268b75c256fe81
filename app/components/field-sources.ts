import type { Field, FieldSource } from "../../core/asset/operation";
import type { Camera } from "../shared/view-types";

/** What of the view values are taken from. */
export interface Sources {
  selected: readonly string[];
  hidden: readonly string[];
  edges: readonly string[];
  chosenHulls: readonly string[];
  /** Chosen faces as operations take them, and which mesh they are of. */
  faceList: readonly string[];
  facesOf: "source" | "game";
  camera: Camera | null;
}

/** A unit vector from what is looked at to the eye. */
const towards = ({ yaw, pitch }: Camera) => ({
  x: Math.sin(yaw) * Math.cos(pitch),
  y: Math.sin(pitch),
  z: Math.cos(yaw) * Math.cos(pitch),
});

/** The value that a source has now; undefined where it has none. */
export function valueFrom(source: FieldSource, view: Sources): unknown {
  switch (source) {
    case "parts":
      return [...view.selected];
    case "hidden parts":
      return [...view.hidden];
    case "edges":
      return [...view.edges];
    case "hulls":
      return view.chosenHulls.length ? [...view.chosenHulls] : undefined;
    case "source edges":
      return view.facesOf === "source" ? [...view.edges] : undefined;
    case "faces":
      return view.faceList.length ? [...view.faceList] : undefined;
    case "mesh of faces":
      return view.faceList.length ? view.facesOf : undefined;
    case "camera x":
    case "camera y":
    case "camera z":
      return view.camera
        ? towards(view.camera)[source.at(-1) as "x" | "y" | "z"]
        : undefined;
  }
}

/** The options that an operation takes from the view, not from its form. */
export const takenFrom = (fields: readonly Field[], view: Sources) =>
  Object.fromEntries(
    fields.flatMap(({ name, from }) => {
      const value = from ? valueFrom(from, view) : undefined;
      return value === undefined ? [] : [[name, value]];
    }),
  );

/** Whether a form asks for a value: it comes from nowhere, or from what has none and may be asked for instead. */
export const isAskedFor = ({ from, orAsked }: Field, view: Sources): boolean =>
  from === undefined ||
  (from !== null && Boolean(orAsked) && valueFrom(from, view) === undefined);
