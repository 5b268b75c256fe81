import { STAGES, STAGE_TITLES } from "../../core/asset/stages";
import type { Show } from "../stores/view";
import { useView } from "../stores/view";
import { useWorkshop } from "../stores/workshop";

/** Something the artist can do by name or by key. */
export interface Command {
  name: string;
  /** The key as `KeyboardEvent.key`, lower case; letters come from the command's own word. */
  key?: string;
  /** How the key is written in the list. */
  shown?: string;
  act(): void;
}

/** All commands there are at the moment; `frame` and `alter` are given by the table. */
export function useCommands(
  frame: () => void,
  alter: (what: "grow" | "shrink" | "invert" | "all") => void,
) {
  const view = useView();
  const workshop = useWorkshop();
  const show = (value: Show) => () => {
    view.show = value;
  };
  return computed((): Command[] => [
    ...STAGES.map((stage, i) => ({
      name: `Go to ${STAGE_TITLES[stage]}`,
      key: String(i + 1),
      act: () => void (view.stage = stage),
    })),
    { name: "Frame what is selected", key: "f", act: frame },
    { name: "Compare source and game mesh", key: "c", act: show("compare") },
    { name: "Show the source", key: "s", act: show("source") },
    { name: "Show the game mesh", key: "g", act: show("game") },
    { name: "Show the baked look", key: "b", act: show("baked") },
    {
      name: "Compare by divider, overlay or blink",
      key: "k",
      act: () => {
        const ways = ["divider", "overlay", "blink"] as const;
        view.show = "compare";
        view.compareBy = ways[(ways.indexOf(view.compareBy) + 1) % 3];
      },
    },
    {
      name: "Wire on or off",
      key: "w",
      act: () => void (view.wire = !view.wire),
    },
    {
      name: "Seams on or off",
      key: "m",
      act: () => void (view.seams = !view.seams),
    },
    {
      name: "Edges that are hard on or off",
      key: "e",
      act: () => void (view.hard = !view.hard),
    },
    {
      name: "Texel checker on or off",
      key: "t",
      act: () => void (view.checker = !view.checker),
    },
    {
      name: "Hulls on or off",
      key: "h",
      act: () => void (view.hulls = !view.hulls),
    },
    {
      name: "UV sheet beside the table on or off",
      key: "v",
      act: () => void (view.sheet = !view.sheet),
    },
    {
      name: "Isolate the selection, or show everything",
      key: "i",
      act: () =>
        view.isolate(workshop.asset!.document.parts.map((p) => p.name)),
    },
    {
      name: "Over and done: hide the selection",
      key: "o",
      act: () => view.finish(),
    },
    {
      name: "Left to do: show what is not done",
      key: "l",
      act: () => view.showLeft(),
    },
    {
      name: "Forget what is done",
      act: () => void view.$patch({ done: [], hidden: [] }),
    },
    {
      name: "Normals: of faces, of vertices, off",
      key: "n",
      act: () =>
        void (view.normals =
          view.normals === "off"
            ? "faces"
            : view.normals === "faces"
              ? "vertices"
              : "off"),
    },
    {
      name: "Polygons by their corners on or off",
      key: "p",
      act: () =>
        void (view.overlay = view.overlay === "polygons" ? "none" : "polygons"),
    },
    {
      name: "A figure of 1.75 m and the metre grid on or off",
      key: "a",
      act: () => void (view.figure = !view.figure),
    },
    {
      name: "Your history and snapshots",
      key: "y",
      act: () => void (view.panel = view.panel === "history" ? "" : "history"),
    },
    ...(["survey", "reduce", "edges", "unwrap"].includes(view.stage)
      ? ([
          ["Quick: choose by part", "q", "part"],
          ["Choose by component", undefined, "component"],
          ["Choose by material", undefined, "material"],
          ["Choose single faces", undefined, "face"],
          ["Choose by flood over an angle", undefined, "flood"],
          ["Choose edges", undefined, "edge"],
          ["Choose edge loops", undefined, "loop"],
          ["Choose edge rings", undefined, "ring"],
          ["Choose by painting", undefined, "paint"],
          ["Choose edges by a stroke", undefined, "stroke"],
          ["Choose by a box", undefined, "box"],
          ["Choose islands", undefined, "island"],
          ...(view.stage === "unwrap"
            ? [
                ["Trace a seam through waypoints", undefined, "trace"],
                ["Cut a region out", undefined, "region"],
              ]
            : []),
        ].map(([name, key, tool]) => ({
          name: name!,
          ...(key ? { key } : {}),
          act: () => void (view.tool = tool as typeof view.tool),
        })) as Command[])
      : []),
    ...(["survey", "reduce", "edges", "unwrap"].includes(view.stage)
      ? [
          { name: "Grow the selection", key: "]", act: () => alter("grow") },
          {
            name: "Shrink the selection",
            key: "[",
            act: () => alter("shrink"),
          },
          { name: "Invert the selection", act: () => alter("invert") },
          { name: "Choose all faces", act: () => alter("all") },
        ]
      : []),
    {
      name: "Clear the selection",
      key: "escape",
      shown: "Esc",
      act: () => view.clearSelection(),
    },
    { name: "Undo", key: "u", act: () => void workshop.step("undo") },
    { name: "Redo", key: "r", act: () => void workshop.step("redo") },
    ...(workshop.stale.length
      ? [
          {
            name: "Bring up to date",
            key: "d",
            act: () => void workshop.step("up-to-date"),
          },
        ]
      : []),
    ...(workshop.job
      ? [
          {
            name: "Cancel the running job",
            key: "x",
            act: () => void workshop.cancel(workshop.job!.id),
          },
        ]
      : []),
    { name: "Dark or light", act: () => void (view.dark = !view.dark) },
    {
      name: "Keys",
      key: "?",
      act: () => void (view.panel = view.panel === "keys" ? "" : "keys"),
    },
    ...workshop.operations
      .filter(
        (operation) =>
          operation.id !== "intake/bring-in" && operation.id !== "edges/mark",
      )
      .map((operation) => ({
        name: `${STAGE_TITLES[operation.stage]}: ${operation.title}`,
        act: () => {
          view.stage = operation.stage;
          if (!view.opened.includes(operation.id))
            view.opened.push(operation.id);
        },
      })),
  ]);
}
