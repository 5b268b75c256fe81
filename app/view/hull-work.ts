import type { Scene } from "three";
import { ownHulls } from "../../core/mesh/hull";
import type { FromView, ToView, ViewState } from "../shared/messages";
import { HullHeat } from "./hull-heat";
import { HullTool } from "./hull-tool";
import { TableDrop } from "./table-drop";
import type { TableScene } from "./table-scene";

/** All that is done with hulls on the table: worked by hand, judged by colours, dropped. */
export class HullWork {
  readonly drop: TableDrop;
  private readonly tool: HullTool;
  private readonly heat: HullHeat;

  /** @param guard tells what goes wrong */
  constructor(
    private readonly table: TableScene,
    scene: Scene,
    private readonly post: (message: FromView) => void,
    draw: () => void,
    private readonly guard: (work: Promise<void>) => void,
  ) {
    this.tool = new HullTool(table, post, draw);
    this.heat = new HullHeat(table, draw);
    this.drop = new TableDrop(table, scene, post, draw);
    table.parts.hulls.add(this.tool.object);
  }

  /** Takes what the page wants to be seen, and what of it was loaded. */
  update(state: ViewState): void {
    this.tool.update(state);
    this.heat.update(
      state,
      [...this.table.parts.views.values()].flatMap((view) => view.hullObjects),
    );
  }

  /** Puts handles where they are to be seen from the camera's place. */
  place(): void {
    this.tool.place(this.drop.isPlaying);
  }

  /** @returns whether the message was about hulls */
  takes(message: Exclude<ToView, { kind: "start" }>): boolean {
    const { tool, post } = this;
    switch (message.kind) {
      case "hull":
        tool.handle(message);
        return true;
      case "pick":
        if (message.what !== "hull") return false;
        post({
          kind: "picked-hull",
          name: tool.pick(message.x, message.y),
          add: message.add,
        });
        return true;
      case "cut": {
        const plane = tool.plane(message.line, message.free);
        if (plane) post({ kind: "hull-cut", ...plane });
        return true;
      }
      case "spot":
        post({ kind: "spot", spot: tool.spot(message.x, message.y) });
        return true;
      case "drop":
        this.guard(
          this.drop.go(
            message,
            [...this.table.parts.views.values()].flatMap(({ hullObjects }) =>
              ownHulls(hullObjects.map(({ hull }) => hull)),
            ),
          ),
        );
        return true;
      default:
        return false;
    }
  }
}
