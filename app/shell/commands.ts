import { STAGES, STAGE_TITLES } from "../../core/asset/stages";
import type { HullHandles, Show } from "../shared/view-types";
import type { OperationInfo } from "../shared/types";
import { BENCHES } from "../stages";
import { useView } from "../stores/view";
import { hasTools, MEANS, toolBy, toolFor, whatsOf } from "../shared/tools";
import { useWorkshop } from "../stores/workshop";
import { TRADE_WORDS } from "./trade-words";

/** The main actions of the stages, and those of them that are no form of settings. */
const MAIN = new Set(Object.values(BENCHES).map(({ main }) => main));
const OWN_FORM = new Set(["intake/bring-in", "finish/look"]);

/** Something the artist can do by name or by key. */
export interface Command {
  name: string;
  /** The key as `KeyboardEvent.key`, lower case; letters come from the command's own word. */
  key?: string;
  /** Other words it is found by. */
  words?: string;
  /** Whether an operation is run by it, or opened to be filled in. */
  does?: "runs" | "opens";
  /** Whether the key goes with Shift. */
  shift?: boolean;
  /** How the key is written in the list. */
  shown?: string;
  act(): void;
}

/** How a command's key is written. */
export const shownKey = ({ key, shown, shift }: Command) =>
  shown ?? (shift ? "Shift " : "") + key!.toUpperCase();

/** Commands that all words of a text are found in: by their own name first, then those that the words say most of. */
export function foundBy(commands: readonly Command[], text: string): Command[] {
  const words = text.toLowerCase().split(/\s+/).filter(Boolean);
  const hits = commands.filter((command) =>
    words.every((word) =>
      `${command.name} ${command.words ?? ""}`.toLowerCase().includes(word),
    ),
  );
  const rank = ({ name, words: other = "" }: Command) =>
    words.every((word) => name.toLowerCase().includes(word))
      ? 0
      : 1 + Math.max(...words.map((word) => other.indexOf(word)));
  return hits.toSorted((a, b) => rank(a) - rank(b));
}

type View = ReturnType<typeof useView>;
type Workshop = ReturnType<typeof useWorkshop>;

/** All commands there are at the moment; `frame` and `alter` are given by the table. */
export function useCommands(
  frame: () => void,
  alter: (what: "grow" | "shrink" | "invert" | "all") => void,
) {
  const view = useView();
  const workshop = useWorkshop();
  return computed((): Command[] => [
    ...STAGES.map((stage, i) => ({
      name: `Go to ${STAGE_TITLES[stage]}`,
      key: String(i + 1),
      act: () => view.go(stage),
    })),
    { name: "Frame what is selected", key: "f", act: frame },
    ...lookCommands(view),
    ...(hasTools(view.stage) ? toolCommands(view, alter) : []),
    ...(view.stage === "collide" ? hullCommands(view) : []),
    {
      name: "Clear the selection",
      key: "escape",
      shown: "Esc",
      act: () => view.clearSelection(),
    },
    ...workCommands(workshop),
    { name: "Dark or light", act: () => void (view.dark = !view.dark) },
    {
      name: "Keys",
      key: "?",
      act: () => void (view.panel = view.panel === "keys" ? "" : "keys"),
    },
    ...workshop.operations.map((operation) => {
      const runs = runsAtOnce(operation, view);
      return {
        name: `${STAGE_TITLES[operation.stage]}: ${operation.title}`,
        words: TRADE_WORDS[operation.id],
        does: runs ? ("runs" as const) : ("opens" as const),
        act: () => view.ask(operation.id, operation.stage, runs),
      };
    }),
  ]);
}

/**
 * What the table shows, and how.
 * In one piece: a list of commands.
 */
function lookCommands(view: View): Command[] {
  const show = (value: Show) => () => view.stopComparing(value);
  return [
    { name: "Compare source and game mesh", key: "c", act: show("compare") },
    { name: "Show the source", key: "s", act: show("source") },
    { name: "Show the game mesh", key: "g", act: show("game") },
    { name: "Show the baked look", key: "b", act: show("baked") },
    {
      name: "Compare by divider, overlay or blink",
      key: "k",
      act: () => {
        const ways = ["divider", "overlay", "blink"] as const;
        if (view.show === "compare")
          view.compareBy = ways[(ways.indexOf(view.compareBy) + 1) % 3];
        view.stopComparing("compare");
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
        view.isolate(useWorkshop().asset!.document.parts.map((p) => p.name)),
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
  ];
}

/** The tools of a stage in which faces and edges are chosen. */
function toolCommands(
  view: View,
  alter: (what: "grow" | "shrink" | "invert" | "all") => void,
): Command[] {
  return [
    ...whatsOf(view.stage).map(({ title, key, value }) => ({
      name: title,
      key,
      shift: true,
      act: () => void (view.tool = toolFor(value, "click")!),
    })),
    ...MEANS.map(({ label, title, key, value }) => ({
      name: `Choose by ${label}: ${title.toLowerCase()}`,
      key,
      shift: true,
      act: () => void (view.tool = toolBy(view.tool, value)),
    })),
    { name: "Grow the selection", key: "]", act: () => alter("grow") },
    {
      name: "Shrink the selection",
      key: "[",
      act: () => alter("shrink"),
    },
    { name: "Invert the selection", act: () => alter("invert") },
    { name: "Choose all faces", act: () => alter("all") },
  ];
}

/** What the hand does to hulls on the table. */
function hullCommands(view: View): Command[] {
  const handles = (hullTool: HullHandles) => () =>
    void view.$patch({ hullTool, armed: "", hulls: true });
  return [
    {
      name: "Move hulls by handles",
      key: "m",
      shift: true,
      act: handles("move"),
    },
    {
      name: "Turn hulls by handles",
      key: "t",
      shift: true,
      act: handles("turn"),
    },
    {
      name: "Size hulls by handles",
      key: "s",
      shift: true,
      act: handles("size"),
    },
    {
      name: "Cut chosen hulls along a line",
      key: "c",
      shift: true,
      act: () =>
        void (view.armed =
          view.armed === "cut" || !view.chosenHulls.length ? "" : "cut"),
    },
    {
      name: "Keep to steps, or not",
      key: "k",
      shift: true,
      act: () => void (view.snapping = !view.snapping),
    },
  ];
}

/** Steps of the asset: back and forth, up to date, the whole route. */
function workCommands(workshop: Workshop): Command[] {
  return [
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
    ...(workshop.canRunRoute && !workshop.stale.length
      ? [
          {
            name: "Run the route, all stages",
            words: "automatic everything one click make batch",
            act: () => void workshop.step("route"),
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
  ];
}

/** Whether an operation can be run as it is: nothing has to be filled in, and what it works on is chosen. */
function runsAtOnce({ id, fields }: OperationInfo, view: View): boolean {
  if (MAIN.has(id)) return !OWN_FORM.has(id);
  const of = (...kinds: string[]) =>
    fields.filter(({ kind }) => kinds.includes(kind));
  const chosen =
    (!of("faces").length || view.chosen.faces > 0) &&
    (!of("edges").length || view.edges.length > 0) &&
    (!of("hulls").length || view.chosenHulls.length > 0) &&
    (!of("parts").length || view.selected.length > 0);
  return (
    chosen && fields.length === of("faces", "edges", "parts", "hulls").length
  );
}
