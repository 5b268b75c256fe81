import { Box3 } from "three";
import { isWithin } from "../shared/layout";
import type { FromView, ToView } from "../shared/messages";
import type { Measure } from "./surroundings";
import type { TableScene } from "./table-scene";

/** What moves the table's camera and the sheet: framing, the pointer's turns and shifts, the wheel, a double click. */
export class TableCamera {
  /** Nobody has chosen a view yet: every part that arrives is framed with the others. */
  unframed = true;
  /** Size of what is framed into. */
  private room = "";

  constructor(
    private readonly table: TableScene,
    private readonly measure: Measure,
    private readonly post: (message: FromView) => void,
    private readonly moved: () => void,
  ) {}

  /** What was framed and not moved since is framed anew where the room for it has changed. */
  keepFramed(): void {
    const { width, height } = this.table.clear();
    const room = `${Math.round(width)} ${Math.round(height)}`;
    if (room === this.room) return;
    this.room = room;
    if (this.table.orbit.at?.framed) this.frame();
  }

  frame(): void {
    const box = new Box3();
    const chosen = this.table.state?.selected ?? [];
    for (const view of this.table.parts.views.values())
      if (!chosen.length || chosen.includes(view.name))
        box.expandByObject(view.source).expandByObject(view.game);
    // What came as hulls alone has nothing else to look at.
    if (box.isEmpty()) box.copy(this.table.wholeBox());
    if (this.table.state?.figure && !chosen.length)
      box.expandByObject(this.measure.object.children[0]);
    const { width, height } = this.table.clear();
    this.table.orbit.frame(box, width / height);
    this.measure.place(
      this.table.wholeBox(),
      this.table.state?.figure ?? false,
    );
    if (this.table.orbit.at)
      this.post({ kind: "camera", camera: this.table.orbit.at });
  }

  move({ how, x, y, over }: Extract<ToView, { kind: "move" }>): void {
    if (how === "frame") {
      this.table.sheet.whole();
      this.frame();
    } else if (over === "sheet") this.table.sheet.pan(x, y);
    else {
      this.table.orbit.move(how, x, y, this.table.clearSize());
      this.tellCamera();
    }
  }

  zoom({ by, x, y }: Extract<ToView, { kind: "zoom" }>): void {
    const sheet = this.table.rects().sheet;
    if (sheet && isWithin(sheet, x, y)) {
      this.table.sheet.zoom(by, x, y);
      return;
    }
    const { left, top, width, height } = this.table.clear();
    this.table.orbit.zoom(
      by,
      x - left - width / 2,
      top + height / 2 - y,
      this.table.clearSize(),
    );
    this.tellCamera();
  }

  turnAbout(x: number, y: number): void {
    const { table } = this.table.rects();
    const hit =
      isWithin(table, x, y) && this.table.cast(x, y, this.table.sourceAt(x));
    if (!hit) return;
    this.table.orbit.turnAbout([hit.point.x, hit.point.y, hit.point.z]);
    this.tellCamera();
  }

  private tellCamera(): void {
    this.moved();
    if (this.table.orbit.at)
      this.post({ kind: "camera", camera: this.table.orbit.at });
  }
}
