import { LineBasicMaterial, LineSegments } from "three";
import type { DataTexture } from "three";
import type { FromView, ViewState } from "../shared/messages";
import { lines } from "./geometry";
import type { BakeTrialWorker } from "./bake-trial";
import { BakeTrial } from "./bake-trial";
import { MapTextures } from "./map-textures";
import { OwnLooks } from "./own-looks";
import type { PartView } from "./part-view";
import { checkerTexture } from "./checker";
import type { FaceSelection } from "./selection";
import { Measure, References } from "./surroundings";
import type { TableScene } from "./table-scene";
import { countUnseen } from "./unseen-count";

/** How what lies on the table looks: materials, maps, checker, chosen edges, and what stands beside the asset. */
export class TableStyle {
  readonly maps: MapTextures;
  readonly trial: BakeTrial;
  readonly ownLooks: OwnLooks;
  readonly measure = new Measure();
  readonly references = new References();
  readonly chosenEdges = new LineSegments(
    lines([]),
    new LineBasicMaterial({ color: "#c2185b", depthTest: false }),
  );
  private checker: DataTexture | null = null;
  private checkerSize = "";

  constructor(
    private readonly table: TableScene,
    private readonly selection: FaceSelection,
    private readonly post: (message: FromView) => void,
    private readonly draw: () => void,
  ) {
    this.maps = new MapTextures(table.loader);
    this.ownLooks = new OwnLooks(table.loader);
    this.trial = new BakeTrial(
      () =>
        new Worker(new URL("./bake-trial.worker.ts", import.meta.url), {
          type: "module",
        }) as BakeTrialWorker,
      post,
      () => {
        this.apply();
        this.draw();
      },
    );
  }

  apply(): void {
    this.trial.want(this.table.document, this.table.state?.bakeTrial);
    for (const view of this.table.parts.views.values()) this.applyTo(view);
    for (const { views } of [this.table.others.left, this.table.others.right])
      for (const view of views.values()) this.applyTo(view);
    const { state } = this.table;
    if (!state) return;
    this.table.sheet.setTiles(
      state.tiles,
      state.sheetHeight / state.sheetWidth,
    );
    this.table.sheet.applyStyle(this.sheetMap(state), state.dark);
    this.measure.place(this.table.wholeBox(), state.figure);
    this.references.object.visible = state.references;
    this.table.parts.moveApart(state.apart);
    this.drawChosenEdges();
    if (state.overlay === "seen")
      this.post({
        kind: "unseen",
        ...countUnseen(this.table.parts.views.values(), state),
      });
  }

  private sheetMap(state: ViewState) {
    const shown = state.sheetShows;
    if (shown === "painted") return this.maps.painted;
    if (shown === "normal" && this.trial.picture) return this.trial.picture;
    if (shown !== "islands" && shown !== "checker")
      void this.maps.look(shown).then((made) => {
        if (!made) return;
        this.apply();
        this.draw();
      });
    return shown === "islands" || shown === "checker"
      ? null
      : (this.maps.pictures[shown] ?? null);
  }

  /** The checker for sheets of this size, drawn when it is first asked for. */
  private checkerFor(state: ViewState): DataTexture | null {
    const { sheetWidth, sheetHeight } = state;
    if (!state.checker && state.sheetShows !== "checker") return null;
    const key = `${sheetWidth} ${sheetHeight}`;
    if (key === this.checkerSize) return this.checker;
    this.checkerSize = key;
    this.checker?.dispose();
    this.checker = checkerTexture(sheetWidth, sheetHeight);
    return this.checker;
  }

  applyTo(view: PartView): void {
    const tried = this.trial.shows(view.name) ? this.trial : null;
    if (this.table.state)
      view.applyStyle(
        this.table.state,
        {
          normal: (tried ?? this.maps).normal,
          ao: this.maps.ao,
          opacity: tried?.opacity ?? this.maps.opacity,
          painted: this.maps.painted,
          checker: this.checkerFor(this.table.state),
          shown: this.sheetMap(this.table.state),
        },
        this.table.document?.looks ?? [],
        this.ownLooks,
        this.table.parts.size,
        () => this.draw(),
      );
  }

  private drawChosenEdges(): void {
    const points: number[] = [];
    const { state } = this.table;
    for (const edge of state?.edges ?? []) {
      const match = /^(.*):(\d+)-(\d+)$/.exec(edge);
      const view = this.table.parts.views.get(match?.[1] ?? "");
      const mesh = view && this.selection.meshOf(view);
      if (!match || !mesh) continue;
      for (const v of [Number(match[2]), Number(match[3])])
        points.push(...mesh.positions.subarray(3 * v, 3 * v + 3));
    }
    this.chosenEdges.geometry.dispose();
    this.chosenEdges.geometry = lines(points);
  }
}
