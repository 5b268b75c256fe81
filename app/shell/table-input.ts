import type { Ref } from "vue";
import type { Rect } from "../shared/layout";
import { isWithin } from "../shared/layout";
import type { How, ToView } from "../shared/messages";
import { plain } from "../shared/plain";
import type { PointerLike } from "./table-aim";
import { useView } from "../stores/view";

interface Drag {
  x: number;
  y: number;
  start: [number, number];
  /** `ask` until the view has said whether a waypoint or a handle lies there, `dot` or `hull` where one does. */
  what:
    | "orbit"
    | "pan"
    | "paint"
    | "box"
    | "stroke"
    | "drag"
    | "ask"
    | "dot"
    | "hull"
    | "cut";
  how: How;
  moved: boolean;
  over: "table" | "sheet";
}

/** What of the page the input needs to know. */
export interface InputPlace {
  holder: Ref<HTMLElement | null>;
  /** Where table and sheet lie in the holder. */
  layout: Ref<{ table: Rect; sheet: Rect | null }>;
  /** Whether clicks choose with the tools. */
  hasTools: Ref<boolean>;
  picksEdges: Ref<boolean>;
  /** Whether islands can be dragged on the sheet. */
  dragsIslands: Ref<boolean>;
  /** Whether hulls can be chosen and worked on the table. */
  worksHulls: Ref<boolean>;
  post(message: ToView): void;
  /** A stroke of the brush or along edges has ended. */
  strokeDone(): void;
}

/**
 * Mouse, pen and keys over the table, as messages to the view.
 * In one piece: all of it shares the drag that is under way.
 */
export function useTableInput(page: InputPlace) {
  const view = useView();
  const { post } = page;
  let drag: Drag | null = null;
  const box = ref<{
    x: number;
    y: number;
    width: number;
    height: number;
  } | null>(null);
  /** A line that is being drawn over hulls. */
  const line = ref<[[number, number], [number, number]] | null>(null);

  function place(event: Pick<MouseEvent, "clientX" | "clientY">) {
    const bounds = page.holder.value!.getBoundingClientRect();
    const x = event.clientX - bounds.left;
    const y = event.clientY - bounds.top;
    const { sheet } = page.layout.value;
    return {
      x,
      y,
      over:
        sheet && isWithin(sheet, x, y)
          ? ("sheet" as const)
          : ("table" as const),
    };
  }
  const howOf = (event: PointerLike): How =>
    event.ctrlKey ? "remove" : event.shiftKey ? "add" : "only";

  function choose(x: number, y: number, how: How) {
    const reach = view.tool === "paint" ? view.brush : view.floodAngle;
    // A stroke goes along single edges.
    const tool = view.tool === "stroke" ? "edge" : view.tool;
    post({ kind: "choose", tool, x, y, how, reach });
  }
  /** Chooses all along a quick stroke, not only where the pointer was heard of. */
  function dab(from: Drag, to: { x: number; y: number }, how: How) {
    const step = view.tool === "paint" ? Math.max(4, view.brush / 2) : 6;
    const steps = Math.ceil(Math.hypot(to.x - from.x, to.y - from.y) / step);
    for (let i = 1; i <= steps; i++)
      choose(
        from.x + ((to.x - from.x) * i) / steps,
        from.y + ((to.y - from.y) * i) / steps,
        how,
      );
  }
  function click(event: PointerLike, at: ReturnType<typeof place>) {
    if (view.tool === "trace" || view.tool === "region") {
      if (page.hasTools.value && at.over === "table") {
        const what =
          view.tool === "region"
            ? "region"
            : event.ctrlKey
              ? "remove"
              : "point";
        post({ kind: "trace", what, x: at.x, y: at.y });
        return;
      }
    }
    if (
      page.hasTools.value &&
      ((view.tool !== "part" && at.over === "table") ||
        (page.dragsIslands.value && at.over === "sheet"))
    ) {
      choose(at.x, at.y, howOf(event));
      return;
    }
    if (page.worksHulls.value && at.over === "table" && !event.altKey) {
      if (view.armed && view.armed !== "cut")
        post({ kind: "spot", x: at.x, y: at.y });
      else
        post({
          kind: "pick",
          x: at.x,
          y: at.y,
          what: "hull",
          add: event.shiftKey || event.ctrlKey,
        });
      return;
    }
    const edge = page.picksEdges.value && at.over === "table" && !event.altKey;
    post({
      kind: "pick",
      x: at.x,
      y: at.y,
      what: edge ? "edge" : "part",
      add: event.shiftKey || event.ctrlKey,
    });
  }
  function down(event: PointerEvent) {
    press(event);
    (event.currentTarget as HTMLElement).setPointerCapture(event.pointerId);
  }
  function press(event: PointerLike) {
    const at = place(event);
    const plainDrag =
      event.button === 0 && !event.altKey && at.over === "table";
    const { tool } = view;
    const drags =
      page.hasTools.value &&
      plainDrag &&
      (tool === "paint" || tool === "box" || tool === "stroke");
    const pan = event.button !== 0 || (event.shiftKey && !drags);
    drag = {
      ...at,
      start: [at.x, at.y],
      what: drags
        ? tool
        : page.dragsIslands.value && at.over === "sheet" && !pan
          ? "drag"
          : pan || at.over === "sheet"
            ? "pan"
            : "orbit",
      how: howOf(event),
      moved: false,
    };
    if (drag.what === "orbit" && tool === "trace" && page.hasTools.value) {
      drag.what = "ask";
      post({ kind: "trace", what: "grab", x: at.x, y: at.y });
    }
    if (drag.what === "orbit" && page.worksHulls.value) {
      if (view.armed === "cut") drag.what = "cut";
      else if (!view.armed && view.chosenHulls.length) {
        drag.what = "ask";
        post({ kind: "hull", what: "grab", x: at.x, y: at.y, free: false });
      }
    }
    if (drag.what === "paint" || drag.what === "stroke")
      choose(at.x, at.y, drag.how);
    // Adding to what is chosen is no drag.
    if (drag.what === "drag" && drag.how !== "only") drag.what = "pan";
  }
  function move(event: PointerLike) {
    const at = place(event);
    if (view.pointerLight) post({ kind: "pointer", x: at.x, y: at.y });
    if (!drag) {
      if (page.hasTools.value && view.tool === "trace" && at.over === "table")
        post({ kind: "trace", what: "hover", x: at.x, y: at.y });
      if (page.worksHulls.value && view.chosenHulls.length)
        post({ kind: "hull", what: "hover", x: at.x, y: at.y, free: false });
      return;
    }
    const x = at.x - drag.x;
    const y = at.y - drag.y;
    // Quick hands move a little while they click.
    const still = view.tool === "trace" || view.tool === "region" ? 7 : 4;
    if (drag.what === "ask" || (!drag.moved && Math.hypot(x, y) < still))
      return;
    if (drag.what === "paint" || drag.what === "stroke")
      dab(drag, at, drag.how === "remove" ? "remove" : "add");
    else if (drag.what === "box")
      box.value = {
        x: Math.min(at.x, drag.start[0]),
        y: Math.min(at.y, drag.start[1]),
        width: Math.abs(at.x - drag.start[0]),
        height: Math.abs(at.y - drag.start[1]),
      };
    else if (drag.what === "drag") {
      if (!drag.moved)
        post({
          kind: "drag",
          what: "begin",
          x: drag.start[0],
          y: drag.start[1],
        });
      post({ kind: "drag", what: "move", x, y });
    } else if (drag.what === "dot")
      post({ kind: "trace", what: "move", x: at.x, y: at.y });
    else if (drag.what === "hull")
      post({
        kind: "hull",
        what: "move",
        x: at.x,
        y: at.y,
        free: event.ctrlKey,
      });
    else if (drag.what === "cut") line.value = [drag.start, [at.x, at.y]];
    else post({ kind: "move", how: drag.what, x, y, over: drag.over });
    drag = { ...drag, x: at.x, y: at.y, moved: true };
  }
  /** The view has said which waypoint lies where the pointer went down. */
  function holdDot(point: number) {
    if (drag?.what === "ask") drag.what = point >= 0 ? "dot" : "orbit";
  }
  /** The view has said whether a handle of hulls lies where the pointer went down. */
  function holdHull(held: boolean) {
    if (drag?.what === "ask") drag.what = held ? "hull" : "orbit";
    // It was let go before the view had an answer.
    else if (held)
      post({ kind: "hull", what: "back", x: 0, y: 0, free: false });
  }
  function up(event: PointerLike) {
    if (!drag) return;
    const at = place(event);
    if (drag.what === "box" && drag.moved)
      post({ kind: "box", from: drag.start, to: [at.x, at.y], how: drag.how });
    else if (drag.what === "drag" && drag.moved)
      post({ kind: "drag", what: "end", x: at.x, y: at.y });
    else if (drag.what === "hull" && drag.moved)
      post({ kind: "hull", what: "end", x: at.x, y: at.y, free: false });
    else if (drag.what === "hull")
      post({ kind: "hull", what: "back", x: 0, y: 0, free: false });
    else if (drag.what === "cut" && line.value)
      post({ kind: "cut", line: plain(line.value), free: event.ctrlKey });
    else if (drag.what === "paint" || drag.what === "stroke") page.strokeDone();
    else if (!drag.moved && event.button === 0) click(event, at);
    box.value = line.value = null;
    drag = null;
  }
  function wheel(event: WheelEvent) {
    const { x, y } = place(event);
    post({ kind: "zoom", by: event.deltaY, x, y });
  }
  function turnAbout(event: MouseEvent) {
    if (view.tool === "trace") return;
    const { x, y } = place(event);
    post({ kind: "turn-about", x, y });
  }
  function keys(event: KeyboardEvent) {
    const turns: Record<string, [number, number]> = {
      ArrowLeft: [-24, 0],
      ArrowRight: [24, 0],
      ArrowUp: [0, -24],
      ArrowDown: [0, 24],
    };
    const turn = turns[event.key];
    if (turn)
      post({
        kind: "move",
        how: event.shiftKey ? "pan" : "orbit",
        x: turn[0],
        y: turn[1],
        over: "table",
      });
    else if (event.key === "+" || event.key === "-") {
      const { left, top, width, height } = page.layout.value.table;
      post({
        kind: "zoom",
        by: event.key === "+" ? -150 : 150,
        x: left + width / 2,
        y: top + height / 2,
      });
    } else if (
      event.key === "Backspace" &&
      (view.tool === "trace" || view.tool === "region")
    )
      post({ kind: "trace", what: "back", x: 0, y: 0 });
    else return;
    event.preventDefault();
  }
  return {
    box,
    line,
    press,
    down,
    move,
    up,
    wheel,
    turnAbout,
    keys,
    holdDot,
    holdHull,
  };
}
