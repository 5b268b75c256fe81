import type { WebGLRenderer } from "three";
import type { DrawnLook } from "../../core/asset/drawing";
import type { Shot, Shots } from "../../core/ship/methods/shots";
import type { FromView, ToView, ViewState } from "../shared/messages";
import { Orbit } from "./orbit";
import type { Preview } from "./preview";
import { smallPicture } from "./small-picture";
import type { TableDrawing } from "./table-drawing";
import type { TableScene } from "./table-scene";
import type { TableStyle } from "./table-style";

/** Pictures are taken for so long before the table is drawn again, ms. */
const AT_ONCE = 300;

/** Where pictures are taken. */
interface Studio {
  canvas: OffscreenCanvas;
  renderer: WebGLRenderer;
  table: TableScene;
  style: TableStyle;
  drawing: TableDrawing;
  tried: Preview;
  post: (message: FromView) => void;
  /** Tells what goes wrong. */
  guard: (work: Promise<void>) => void;
  /** The table shows again what it showed. */
  done: () => void;
}

/** Pictures for snapshots, reports and turntables, from what draws the table. */
export class Portraits {
  /** Counts what was asked for: older work stops. */
  private turn = 0;

  constructor(private readonly studio: Studio) {}

  /** @returns whether a message was for it */
  takes(message: ToView): boolean {
    if (message.kind === "picture") this.studio.guard(this.small());
    else if (message.kind === "portraits") {
      this.turn++;
      if (message.shots)
        this.studio.guard(this.take(message.shots, message.parts));
    } else return false;
    return true;
  }

  /** A small PNG of the table as it stands. */
  private async small(): Promise<void> {
    const { canvas, table, drawing, post } = this.studio;
    drawing.render();
    const ratio = canvas.width / table.width;
    const png = await smallPicture(canvas, table.rects().table, ratio);
    post({ kind: "picture", png });
  }

  private async take(wanted: Shots, parts: readonly string[]): Promise<void> {
    const { turn } = this;
    const { table, tried, post, done } = this.studio;
    if (!table.document || !table.state)
      throw new Error("there is nothing yet to take pictures of");
    await tried.show(table.document, {
      ...{ budget: 0, own: {}, thin: null, without: {}, level: 0 },
    });
    const distance = wanted.steady ? this.farthest(wanted) : 0;
    for (let next = 0; next < wanted.shots.length && this.turn === turn;) {
      const taken = this.some(wanted, next, parts, distance);
      next += taken.length;
      for (const [name, picture] of taken) {
        const blob = await picture.convertToBlob({ type: "image/png" });
        if (this.turn !== turn) break;
        post({ kind: "portrait", name, png: await blob.arrayBuffer() });
      }
    }
    done();
  }

  /** As many pictures as are soon taken; the table is as it was before anybody sees it. */
  private some(
    { width, height, shots }: Shots,
    from: number,
    parts: readonly string[],
    distance: number,
  ): [string, OffscreenCanvas][] {
    const { canvas, renderer, table, style, drawing } = this.studio;
    const { state, width: wide, height: high, orbit } = table;
    const { at } = orbit;
    const ratio = renderer.getPixelRatio();
    const begun = performance.now();
    const taken: [string, OffscreenCanvas][] = [];
    const fit = (w: number, h: number, pixels: number) => {
      [table.width, table.height] = [w, h];
      renderer.setPixelRatio(pixels);
      renderer.setSize(w, h, false);
    };
    try {
      fit(width, height, 1);
      let look: DrawnLook | null = null;
      for (const shot of shots.slice(from)) {
        if (taken.length && performance.now() - begun > AT_ONCE) break;
        if (shot.look !== look) {
          ({ look } = shot);
          table.state = plainState(state!, look, hiddenBeside(table, parts));
          style.apply();
        }
        this.aim(shot, width / height, distance);
        drawing.renderAlone();
        const picture = new OffscreenCanvas(width, height);
        picture.getContext("2d")!.drawImage(canvas, 0, 0);
        taken.push([shot.name, picture]);
      }
    } finally {
      table.state = state;
      orbit.at = at;
      fit(wide, high, ratio);
      style.apply();
      drawing.render();
    }
    return taken;
  }

  private aim({ back }: Shot, aspect: number, distance: number): void {
    const orbit = new Orbit();
    orbit.at = {
      yaw: Math.atan2(back[0], back[2]),
      pitch: Math.asin(back[1]),
      ...{ distance: 1, target: [0, 0, 0] },
    };
    const { table } = this.studio;
    orbit.frame(table.wholeBox(), aspect);
    if (distance) orbit.at.distance = distance;
    table.orbit.at = orbit.at;
  }

  /** From how far off all is seen from every side, metres. */
  private farthest({ width, height, shots }: Shots): number {
    const { orbit } = this.studio.table;
    const { at } = orbit;
    let most = 0;
    for (const shot of shots) {
      this.aim(shot, width / height, 0);
      most = Math.max(most, orbit.at!.distance);
    }
    orbit.at = at;
    return most;
  }
}

const hiddenBeside = (table: TableScene, parts: readonly string[]) =>
  parts.length
    ? [...table.parts.views.keys()].filter((name) => !parts.includes(name))
    : [];

/** Game meshes alone in one of the looks, by daylight, whatever is shown on the table. */
const plainState = (
  state: ViewState,
  look: DrawnLook,
  hidden: string[],
): ViewState => ({
  ...state,
  sharing: { share: 0, turned: false, first: false },
  covered: { above: 0, below: 0 },
  show: look === "baked" ? "baked" : "game",
  ...{ overlay: "none", sheetShows: "islands", beside: "mesh" },
  wire: look === "wire",
  checker: look === "checker",
  triangulated: true,
  ...{ seams: false, hard: false, hulls: false, figure: false },
  ...{ references: false, normals: "off", cage: null, place: null },
  ...{ pointerLight: false, light: 35, dark: false, apart: 0 },
  ...{ selected: [], edges: [], hidden },
});
