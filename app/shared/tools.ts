import type { Stage } from "../../core/asset/stages";
import type { Tool } from "./view-types";

/** What a click takes, or what it is done with; `key` goes with Shift. */
export interface ToolWord<T extends string> {
  value: T;
  label: string;
  title: string;
  key: string;
}

export type What =
  | "part"
  | "component"
  | "material"
  | "face"
  | "island"
  | "edge"
  | "loop"
  | "ring"
  | "trace"
  | "region";
export type Means = "click" | "flood" | "brush" | "box" | "stroke";

const WHATS: ToolWord<What>[] = [
  { value: "part", label: "part", title: "Choose parts", key: "p" },
  {
    value: "component",
    label: "component",
    title: "Choose connected components",
    key: "c",
  },
  {
    value: "material",
    label: "material",
    title: "Choose faces of a material",
    key: "m",
  },
  { value: "face", label: "face", title: "Choose faces", key: "f" },
  { value: "island", label: "island", title: "Choose UV islands", key: "i" },
  { value: "edge", label: "edge", title: "Choose edges", key: "e" },
  { value: "loop", label: "loop", title: "Choose edge loops", key: "l" },
  { value: "ring", label: "ring", title: "Choose edge rings", key: "r" },
  {
    value: "trace",
    label: "seam",
    title: "Trace a seam through waypoints",
    key: "s",
  },
  {
    value: "region",
    label: "region",
    title: "Cut a cap, pocket or lobe out",
    key: "g",
  },
];

export const MEANS: ToolWord<Means>[] = [
  { value: "click", label: "click", title: "One by one", key: "k" },
  {
    value: "flood",
    label: "flood",
    title: "Faces that bend no more than an angle",
    key: "o",
  },
  {
    value: "brush",
    label: "brush",
    title: "Faces painted over",
    key: "b",
  },
  { value: "box", label: "box", title: "Faces in a box", key: "x" },
  {
    value: "stroke",
    label: "stroke",
    title: "Edges along a stroke",
    key: "t",
  },
];

/** Stages at which things are chosen on the table. */
export const hasTools = (stage: Stage) =>
  ["survey", "reduce", "edges", "unwrap", "bake"].includes(stage);

/** What can be chosen at a stage: seams are drawn at Unwrap only, islands where UVs matter. */
export function whatsOf(stage: Stage): ToolWord<What>[] {
  const left: What[] =
    stage === "unwrap"
      ? ["material"]
      : stage === "edges"
        ? ["material", "trace", "region"]
        : stage === "bake"
          ? ["trace", "region"]
          : ["island", "trace", "region"];
  return WHATS.filter(({ value }) => !left.includes(value));
}

const FACES: Partial<Record<Tool, Means>> = {
  face: "click",
  flood: "flood",
  paint: "brush",
  box: "box",
};
const EDGES: Partial<Record<Tool, Means>> = { edge: "click", stroke: "stroke" };

export const whatOf = (tool: Tool): What =>
  tool in FACES ? "face" : tool in EDGES ? "edge" : (tool as What);

export const meansOf = (tool: Tool): Means =>
  FACES[tool] ?? EDGES[tool] ?? "click";

/** The tool that takes something by some means, or null where that does not go. */
export function toolFor(what: What, means: Means): Tool | null {
  const tools = what === "face" ? FACES : what === "edge" ? EDGES : null;
  if (!tools) return means === "click" ? what : null;
  const found = Object.entries(tools).find(([, each]) => each === means);
  return (found?.[0] as Tool | undefined) ?? null;
}

/** The tool for a means that was asked for: faces for those of faces, edges for strokes. */
export const toolBy = (tool: Tool, means: Means): Tool =>
  toolFor(whatOf(tool), means) ??
  toolFor(means === "stroke" ? "edge" : "face", means)!;
