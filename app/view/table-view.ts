import {
  Box3,
  Color,
  DirectionalLight,
  HemisphereLight,
  LineBasicMaterial,
  LineSegments,
  PerspectiveCamera,
  Scene,
  Vector3,
  WebGLRenderer,
} from "three";
import type { DataTexture } from "three";
import type { AssetDocument } from "../../core/asset/document";
import { StreamLoader, lines } from "./geometry";
import { MapTextures } from "./map-textures";
import type { Rect } from "../shared/layout";
import { clearOf, isWithin, layoutOf } from "../shared/layout";
import type { FromView, ToView, ViewState } from "../shared/messages";
import { FOV, Orbit } from "./orbit";
import { PartSet } from "./part-set";
import { levelAt, Preview } from "./preview";
import { OwnLooks } from "./own-looks";
import type { PartView } from "./part-view";
import type { Hit } from "./picking";
import { castAt, nearestVertex } from "./picking";
import { Choosing } from "./choosing";
import { drawOutlines } from "./outlines";
import { SheetView } from "./sheet-view";
import type { TrialWorker } from "./seam-trials";
import { SeamTrials } from "./seam-trials";
import { Tracing } from "./tracing";
import { uvFacts } from "./uv-facts";
import { checkerTexture, fogScene, softRoom } from "./room";
import { Measure, PlaceMarks, References } from "./surroundings";
import { countUnseen } from "./unseen-count";

/** What one side of the table shows: `kept` is the game mesh beside a trial, `both` one over the other. */
type Side = "source" | "game" | "left" | "right" | "kept" | "both";

/** Layer of everything that is drawn as lines. */
const LINES = 1;

/** How far above what lies over the table's lower edge it is shown as large as in a game, px. */
const GAME_SIZE_ABOVE = 26;

/** How long either mesh is shown when they take turns, ms. */
const BLINK = 650;

/** Everything that draws: lives in a worker with the page's canvas, so that no mesh ever holds up the page. */
export class TableView {
  private readonly renderer: WebGLRenderer;
  private readonly scene = new Scene();
  private readonly camera = new PerspectiveCamera(FOV, 1, 0.01, 100);
  private readonly loader = new StreamLoader();
  private readonly parts = new PartSet(this.loader);
  /** The parts of other revisions, at either side of the divider. */
  private readonly others = {
    left: new PartSet(this.loader),
    right: new PartSet(this.loader),
  };
  private readonly maps = new MapTextures(this.loader);
  private readonly ownLooks = new OwnLooks(this.loader);
  private readonly choosing: Choosing;
  private readonly measure = new Measure();
  private readonly references = new References();
  private readonly marks = new PlaceMarks();
  private readonly key = new DirectionalLight("#fff6e8", 1.3);
  private readonly chosenEdges = new LineSegments(
    lines([]),
    new LineBasicMaterial({ color: "#c2185b", depthTest: false }),
  );
  private readonly sheet = new SheetView(this.parts);
  private readonly tracing = new Tracing(() => this.parts.size);
  /** How seams that are being drawn would lay out, found beside the view. */
  private readonly trials = new SeamTrials<PartView>(
    () =>
      new Worker(new URL("./seam-trial.worker.ts", import.meta.url), {
        type: "module",
      }) as TrialWorker,
    (view, { uvs, seams, changed, islands, stretch, milliseconds }) => {
      const { gameMesh } = view;
      if (!gameMesh) return;
      this.sheet.showUnfolded(view, {
        mesh: { ...gameMesh, uvs, seams },
        changed,
      });
      this.post({
        kind: "tried",
        part: view.name,
        islands,
        stretch,
        milliseconds,
      });
      this.draw();
    },
  );
  private willTryOut = false;
  /** Size of what is framed into. */
  private room = "";
  /** Where a seam or a waypoint was last asked to follow the pointer to. */
  private following: Extract<ToView, { kind: "trace" }> | null = null;
  private checker: DataTexture | null = null;
  private checkerSize = "";
  private pointer: [number, number] | null = null;
  private readonly fogScene = fogScene();
  private readonly orbit = new Orbit();
  private document: AssetDocument | null = null;
  private readonly other: Record<"left" | "right", AssetDocument | null> = {
    left: null,
    right: null,
  };
  private state: ViewState | null = null;
  private width = 1;
  private height = 1;
  private queued = false;
  private blinked = false;
  private blinker: ReturnType<typeof setInterval> | null = null;
  /** Nobody has chosen a view yet: every part that arrives is framed with the others. */
  private unframed = true;
  private readonly tried: Preview;

  constructor(
    private readonly canvas: OffscreenCanvas,
    private readonly post: (message: FromView) => void,
  ) {
    this.tried = new Preview(this.loader, this.parts, this.post);
    this.choosing = new Choosing({
      parts: this.parts,
      orbit: this.orbit,
      camera: this.camera,
      tell: this.post,
      state: () => this.state,
      size: () => this.clearSize(),
      sourceAt: (x) => this.sourceAt(x),
      cast: (x, y, source) => this.cast(x, y, source),
      onTable: (x, y) => this.onTable(x, y),
      visibleViews: () => this.visibleViews(),
      onSheet: (x, y) => this.onSheet(x, y),
      chosen: () => this.sheet.showChosen(this.choosing.selection.onGames()),
    });
    this.renderer = new WebGLRenderer({
      canvas: canvas as unknown as HTMLCanvasElement,
      antialias: true,
      preserveDrawingBuffer: true,
    });
    this.renderer.autoClear = false;
    const fill = new HemisphereLight("#e6edf0", "#8d8476", 0.6);
    this.scene.add(
      fill,
      this.key,
      this.parts.sources,
      this.parts.games,
      this.parts.hulls,
      ...[this.others.left, this.others.right].flatMap((each) => [
        each.sources,
        each.games,
      ]),
      this.chosenEdges,
      this.tracing.object,
      this.choosing.selection.object,
      this.measure.object,
      this.references.object,
      this.marks.object,
    );
    this.camera.layers.enable(LINES);
    this.chosenEdges.renderOrder = 5;
    this.scene.environment = softRoom(this.renderer);
    // Bone that faces the light stays a little below white, so that its form shows.
    this.scene.environmentIntensity = 0.34;
  }

  handle(message: Exclude<ToView, { kind: "start" }>): void {
    switch (message.kind) {
      case "size":
        this.width = Math.max(1, message.width);
        this.height = Math.max(1, message.height);
        this.renderer.setPixelRatio(message.ratio);
        this.renderer.setSize(this.width, this.height, false);
        this.keepFramed();
        break;
      case "document":
        this.guard(this.load(message.document));
        return;
      case "other":
        this.guard(this.loadOther(message.side, message.document));
        return;
      case "state":
        this.setState(message.state);
        break;
      case "camera":
        this.orbit.at = message.camera;
        this.unframed = !message.camera;
        break;
      case "move":
        this.move(message);
        break;
      case "zoom":
        this.zoom(message);
        break;
      case "turn-about":
        this.turnAbout(message.x, message.y);
        break;
      case "look":
        this.orbit.lookAt(message.at, message.radius);
        this.post({ kind: "camera", camera: this.orbit.at! });
        break;
      case "pick":
        this.choosing.pick(message);
        return;
      case "choose":
        this.choosing.choose(message);
        break;
      case "box":
        this.placeCamera();
        this.choosing.chooseInBox(message);
        break;
      case "alter":
        this.choosing.alter(message.what);
        break;
      case "trace":
        this.trace(message);
        break;
      case "drag":
        this.dragSheet(message);
        break;
      case "pointer":
        this.pointer = this.onTable(message.x, message.y);
        break;
      case "settle":
        this.choosing.settle();
        return;
      case "outlines":
        this.post({
          kind: "outlines",
          pictures: drawOutlines(
            [...this.parts.views.values()],
            message.towards,
            message.size,
          ),
        });
        return;
      case "picture":
        this.guard(this.takePicture());
        return;
    }
    this.draw();
  }

  private guard(work: Promise<void>): void {
    work.catch((error: unknown) =>
      this.post({
        kind: "failed",
        message: error instanceof Error ? error.message : String(error),
      }),
    );
  }

  private setState(state: ViewState): void {
    const before = this.state;
    this.state = state;
    this.keepFramed();
    this.choosing.setState(state);
    if (JSON.stringify(before?.place) !== JSON.stringify(state.place))
      this.marks.show(
        state.place,
        this.parts.views.get(state.place?.part ?? "")?.sourceMesh ?? null,
      );
    this.applyStyle();
    this.tryOutSoon();
    this.trySeams();
    this.blink();
  }

  /** Lets source and game mesh take turns where that is asked. */
  private blink(): void {
    const wanted = this.compares() && this.state?.compareBy === "blink";
    if (wanted === (this.blinker !== null)) return;
    if (this.blinker !== null) clearInterval(this.blinker);
    this.blinker = wanted
      ? setInterval(() => {
          this.blinked = !this.blinked;
          this.draw();
        }, BLINK)
      : null;
  }

  /** Tries out what is wanted once all that has come meanwhile is done: only the newest, and no click waits for it. */
  private tryOutSoon(): void {
    if (this.willTryOut) return;
    this.willTryOut = true;
    setTimeout(() => {
      this.willTryOut = false;
      this.tryOut();
    }, 0);
  }

  /** Shows a budget or a level of detail in place of the game meshes, as the page wants it. */
  private tryOut(): void {
    const { state, document } = this;
    if (!state || !document) return;
    this.guard(
      this.tried
        .show(document, {
          budget: state.previewBudget,
          own: state.previewOwn,
          thin: state.thin,
          without: state.without,
          level:
            state.level < 0
              ? levelAt(state.switchPoints, this.orbit.at?.distance ?? 0)
              : state.level,
        })
        .then((changed) => {
          if (changed) this.draw();
        }),
    );
  }

  private async load(document: AssetDocument): Promise<void> {
    this.document = document;
    const whole = await this.parts.update(
      document,
      (_, __, view) => {
        this.dressPart(view);
        if (this.unframed) this.frame();
        this.draw();
      },
      (part, done) =>
        this.post({
          kind: "loading",
          done,
          total: document.parts.length,
          what: part.name,
        }),
    );
    if (!whole) return;
    await this.maps.update(document);
    this.ownLooks.update(document);
    await this.references.update(document, this.loader);
    this.forgetUnused();
    if (this.unframed) this.frame();
    this.unframed = this.parts.views.size === 0;
    if (this.state) this.choosing.reset(this.state);
    this.marks.show(null, null);
    this.tried.forget();
    this.tracing.clear();
    this.trials.drop();
    this.post({ kind: "trace", points: 0, edges: [], refused: "" });
    this.post({ kind: "facts", facts: uvFacts(this.parts.views.values()) });
    this.applyStyle();
    this.tryOut();
    this.draw();
    const count = (which: "source" | "game") =>
      document.parts.reduce(
        (sum, part) => sum + (part[which]?.triangles ?? 0),
        0,
      );
    this.post({
      kind: "ready",
      triangles: { source: count("source"), game: count("game") },
    });
  }

  private async loadOther(
    side: "left" | "right",
    document: AssetDocument | null,
  ): Promise<void> {
    this.other[side] = document;
    if (document)
      await this.others[side].update(document, (_, __, view) => {
        this.dressPart(view);
        this.draw();
      });
    this.forgetUnused();
    this.draw();
  }

  private forgetUnused(): void {
    const text = JSON.stringify([this.document, this.other]);
    this.loader.keepOnly(
      new Set(
        [...text.matchAll(/"hash":"([0-9a-f]{64})"/g)].map(([, hash]) => hash),
      ),
    );
  }

  private applyStyle(): void {
    for (const view of this.parts.views.values()) this.dressPart(view);
    for (const { views } of [this.others.left, this.others.right])
      for (const view of views.values()) this.dressPart(view);
    const { state } = this;
    if (!state) return;
    this.sheet.setTiles(state.tiles, state.sheetHeight / state.sheetWidth);
    this.sheet.applyStyle(this.sheetMap(state), state.dark);
    this.measure.place(this.wholeBox(), state.figure);
    this.references.object.visible = state.references;
    this.drawChosenEdges();
    if (state.overlay === "seen")
      this.post({
        kind: "unseen",
        ...countUnseen(this.parts.views.values(), state),
      });
  }

  private sheetMap(state: ViewState) {
    const shown = state.sheetShows;
    if (shown === "painted") return this.maps.painted;
    return shown === "normal" || shown === "ao"
      ? this.maps.pictures[shown]
      : null;
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

  private dressPart(view: PartView): void {
    if (this.state)
      view.applyStyle(
        this.state,
        {
          normal: this.maps.normal,
          ao: this.maps.ao,
          painted: this.maps.painted,
          checker: this.checkerFor(this.state),
        },
        this.document?.looks ?? [],
        this.ownLooks,
        this.parts.size,
        () => this.draw(),
      );
  }

  private drawChosenEdges(): void {
    const points: number[] = [];
    const { state } = this;
    for (const edge of state?.edges ?? []) {
      const match = /^(.*):(\d+)-(\d+)$/.exec(edge);
      const view = this.parts.views.get(match?.[1] ?? "");
      const mesh = view && this.choosing.selection.meshOf(view);
      if (!match || !mesh) continue;
      for (const v of [Number(match[2]), Number(match[3])])
        points.push(...mesh.positions.subarray(3 * v, 3 * v + 3));
    }
    this.chosenEdges.geometry.dispose();
    this.chosenEdges.geometry = lines(points);
  }

  private wholeBox(): Box3 {
    return new Box3()
      .setFromObject(this.parts.sources)
      .expandByObject(this.parts.games);
  }

  /** What was framed and not moved since is framed anew where the room for it has changed. */
  private keepFramed(): void {
    const { width, height } = this.clear();
    const room = `${Math.round(width)} ${Math.round(height)}`;
    if (room === this.room) return;
    this.room = room;
    if (this.orbit.at?.framed) this.frame();
  }

  private frame(): void {
    const box = new Box3();
    const chosen = this.state?.selected ?? [];
    for (const view of this.parts.views.values())
      if (!chosen.length || chosen.includes(view.name))
        box.expandByObject(view.source).expandByObject(view.game);
    if (this.state?.figure && !chosen.length)
      box.expandByObject(this.measure.object.children[0]);
    const { width, height } = this.clear();
    this.orbit.frame(box, width / height);
    this.measure.place(this.wholeBox(), this.state?.figure ?? false);
    if (this.orbit.at) this.post({ kind: "camera", camera: this.orbit.at });
  }

  private move({ how, x, y, over }: Extract<ToView, { kind: "move" }>): void {
    if (how === "frame") {
      this.sheet.whole();
      this.frame();
    } else if (over === "sheet") this.sheet.pan(x, y);
    else {
      this.orbit.move(how, x, y, this.clearSize());
      this.tellCamera();
    }
  }

  private zoom({ by, x, y }: Extract<ToView, { kind: "zoom" }>): void {
    const sheet = this.rects().sheet;
    if (sheet && isWithin(sheet, x, y)) {
      this.sheet.zoom(by, x, y);
      return;
    }
    const { left, top, width, height } = this.clear();
    this.orbit.zoom(
      by,
      x - left - width / 2,
      top + height / 2 - y,
      this.clearSize(),
    );
    this.tellCamera();
  }

  private turnAbout(x: number, y: number): void {
    const { table } = this.rects();
    const hit = isWithin(table, x, y) && this.cast(x, y, this.sourceAt(x));
    if (!hit) return;
    this.orbit.turnAbout([hit.point.x, hit.point.y, hit.point.z]);
    this.tellCamera();
  }

  private tellCamera(): void {
    if (this.state && this.state.level < 0) this.tryOut();
    if (this.orbit.at) this.post({ kind: "camera", camera: this.orbit.at });
  }

  /** Follows the pointer with a seam, sets, moves and takes out waypoints, or shows the region under it. */
  private trace(message: Extract<ToView, { kind: "trace" }>): void {
    const { what, x, y } = message;
    if (what === "hover" || what === "move") {
      // Once all that has come meanwhile is done, and only the newest.
      if (!this.following) setTimeout(() => this.follow(), 0);
      this.following = message;
      return;
    }
    this.following = null;
    if (what === "grab") {
      this.post({ kind: "held", point: this.grabDot(x, y) });
      return;
    }
    let refused = "";
    if (what === "clear") this.tracing.clear();
    else if (what === "back") this.tracing.back();
    else if (what === "remove") {
      const at = this.grabDot(x, y);
      if (at >= 0) this.tracing.remove(at);
      else refused = "there is no waypoint here";
    } else refused = this.traceAt(what, x, y);
    this.tellTrace(refused);
  }

  /** Sets a waypoint or shows a region. @returns why nothing was set, or nothing */
  private traceAt(what: "point" | "region", x: number, y: number): string {
    if (this.sourceAt(x))
      return "this is the source: seams are drawn on the game mesh";
    const at = this.vertexAt(x, y);
    if (!at) return "there is no game mesh under the pointer";
    if (what === "point") return this.tracing.add(at.view, at.vertex) ?? "";
    return this.tracing.region(at.view, at.face)
      ? ""
      : "no cap, pocket or lobe begins here";
  }

  private vertexAt(x: number, y: number) {
    const hit = this.sourceAt(x) ? null : this.cast(x, y, false);
    const mesh = hit?.view.gameMesh;
    if (!hit || !mesh) return null;
    const face = hit.view.faceOf(mesh, hit.triangle);
    return {
      view: hit.view,
      face,
      vertex: nearestVertex(mesh, face, hit.point),
    };
  }

  private grabDot(x: number, y: number): number {
    this.placeCamera();
    const { left, top, width, height } = this.rects().table;
    return this.tracing.grab(
      (px, py, pz) => {
        const at = new Vector3(px, py, pz).project(this.camera);
        return [
          left + ((at.x + 1) / 2) * width,
          top + ((1 - at.y) / 2) * height,
        ];
      },
      x,
      y,
    );
  }

  private follow(): void {
    const { following } = this;
    this.following = null;
    if (!following) return;
    const at = this.vertexAt(following.x, following.y);
    if (!at) return;
    if (following.what === "hover") this.tracing.hover(at.view, at.vertex);
    else {
      this.tracing.moveHeld(at.view, at.vertex);
      this.tellTrace("");
    }
    this.draw();
  }

  private tellTrace(refused: string): void {
    this.post({
      kind: "trace",
      points: this.tracing.count,
      edges: this.tracing.edges(),
      refused,
    });
    this.trySeams();
  }

  /** Lays a part out with the seams that are being drawn, on the sheet as soon as it is found. */
  private trySeams(): void {
    const { state } = this;
    const wanted = state?.triesSeams
      ? this.tracing.wanted(state.edges, this.parts.views)
      : null;
    if (!state || !wanted) {
      this.trials.drop();
      this.sheet.showUnfolded(null, null);
      return;
    }
    const { view, mesh, key } = wanted;
    this.trials.want(`${view.key} ${key}`, view, mesh, {
      width: state.sheetWidth,
      height: state.sheetHeight,
    });
  }

  private dragSheet({ what, x, y }: Extract<ToView, { kind: "drag" }>): void {
    const { state } = this;
    if (!state) return;
    if (what === "move") this.sheet.dragBy(x, y);
    else if (what === "end") {
      const moved = this.sheet.drop();
      if (moved)
        this.post({
          kind: "dragged",
          x: moved.x * state.sheetWidth,
          y: moved.y * state.sheetHeight,
          landing: moved.landing,
        });
    } else {
      const hit = this.onSheet(x, y);
      if (!hit) return;
      if (!this.choosing.selection.marksOf(hit.view)?.[hit.face])
        this.choosing.choose({
          kind: "choose",
          tool: "island",
          x,
          y,
          how: "only",
          reach: 0,
        });
      this.sheet.grab(
        this.visibleViews(),
        (view) => this.choosing.selection.marksOf(view),
        state.padding / state.sheetWidth,
      );
    }
  }

  private rects() {
    const { width, height, state } = this;
    return layoutOf(
      width,
      height,
      state?.sharing ?? { share: 0, turned: false, first: false },
    );
  }

  /** What of the table nothing lies over. */
  private clear(): Rect {
    return clearOf(
      this.rects().table,
      this.state?.covered ?? { above: 0, below: 0 },
    );
  }

  private clearSize(): number {
    const { width, height } = this.clear();
    return Math.min(width, height);
  }

  private placeCamera(): void {
    this.orbit.placeIn(this.camera, this.rects().table, this.clear());
    const yaw = this.orbit.at?.yaw ?? 0;
    if (this.state?.pointerLight && this.pointer) {
      const [x, y] = this.pointer;
      // From where the pointer is, in front of the view: grazing at its edges.
      this.key.position
        .set(1.6 * x, 1.6 * y, 0.55)
        .applyQuaternion(this.camera.quaternion);
      return;
    }
    const light = ((this.state?.light ?? 35) * Math.PI) / 180 + yaw - 1.2;
    this.key.position.set(Math.sin(light), 1.1, Math.cos(light));
  }

  private draw(): void {
    if (this.queued) return;
    this.queued = true;
    requestAnimationFrame(() => {
      this.queued = false;
      this.render();
    });
  }

  private render(): void {
    const { renderer, state } = this;
    if (!state) return;
    const { table, sheet } = this.rects();
    renderer.setScissorTest(true);
    this.placeCamera();
    renderer.setViewport(...this.onCanvas(table));
    this.fog(table);
    const split = this.split(table);
    const rest: Side =
      state.show === "revisions" && this.other.right
        ? "right"
        : state.show === "source" || !this.hasGame()
          ? "source"
          : "game";
    if (this.compares() && state.compareBy === "overlay")
      this.renderSide(table, "both");
    else if (this.compares() && state.compareBy === "blink")
      this.renderSide(table, this.blinked ? "game" : "source");
    else {
      const { left, width } = table;
      if (split > 0)
        this.renderSide({ ...table, width: split }, this.leftSide());
      if (split < width)
        this.renderSide(
          { ...table, left: left + split, width: width - split },
          rest,
        );
    }
    this.renderGameSize(table);
    if (sheet)
      this.sheet.render(
        renderer,
        { rect: sheet, clear: clearOf(sheet, state.sheetCovered) },
        this.onCanvas(sheet),
        state.dark,
      );
  }

  /** A rectangle as the renderer counts it: from the left and from below. */
  private onCanvas({
    left,
    top,
    width,
    height,
  }: Rect): [number, number, number, number] {
    return [left, this.height - top - height, width, height];
  }

  /** Whether source and game mesh are compared on the table. */
  private compares(): boolean {
    const { state } = this;
    return (
      state?.show === "compare" &&
      !this.tries() &&
      this.hasGame() &&
      (this.document?.parts.some((part) => part.source) ?? false)
    );
  }

  /** Whether a detail is tried as geometry and as map. */
  private tries(): boolean {
    return Object.keys(this.state?.without ?? {}).length > 0;
  }

  /** How many pixels on the left show the other side of a comparison. */
  private split(table = this.rects().table): number {
    const { state } = this;
    const divided =
      state?.show === "revisions"
        ? this.other.left !== null
        : this.tries() || (this.compares() && state?.compareBy === "divider");
    return divided ? Math.round(table.width * state!.divider) : 0;
  }

  private leftSide(): Side {
    if (this.state?.show === "revisions") return "left";
    return this.tries() ? "kept" : "source";
  }

  private hasGame(): boolean {
    return this.document?.parts.some((part) => part.game) ?? false;
  }

  private renderSide(side: Rect, what: Side): void {
    this.showOnly(what);
    this.renderer.setScissor(...this.onCanvas(side));
    this.renderer.clearDepth();
    this.renderer.render(this.scene, this.camera);
  }

  private showOnly(what: Side): void {
    this.parts.sources.visible =
      what === "source" ||
      what === "both" ||
      (what === "kept" && !this.hasGame());
    this.parts.games.visible =
      what === "game" || what === "both" || what === "kept";
    for (const view of this.parts.views.values()) {
      view.showKept(what === "kept");
      view.seeThrough(what === "both");
    }
    for (const side of ["left", "right"] as const) {
      const game = this.other[side]?.parts.some((part) => part.game) ?? false;
      this.others[side].sources.visible = what === side && !game;
      this.others[side].games.visible = what === side && game;
    }
    this.parts.hulls.visible =
      (this.state?.hulls ?? false) && what !== "left" && what !== "right";
    const { selection } = this.choosing;
    this.tracing.object.visible = what === "game" || what === "both";
    this.chosenEdges.visible = selection.object.visible =
      what === selection.which ||
      (what === "both" && selection.which === "game");
    this.marks.object.visible = what === "source";
  }

  /** Source and game mesh side by side in the corner, as high as a game would show them. */
  private renderGameSize(table: Rect): void {
    const size = this.state?.gameSize ?? 0;
    if (!size || !this.orbit.at) return;
    // Lines are no part of what a game shows: they lie in a layer that only the table's own camera sees.
    this.scene.traverse((object) => {
      if (object instanceof LineSegments) object.layers.set(LINES);
    });
    const far = new PerspectiveCamera(FOV, 1, 0.01, 1000);
    this.orbit.placeWhole(far, this.wholeBox());
    (["source", "game"] as const).forEach((what, i) => {
      const x = 10 + i * (size + 8);
      if (x + size > table.width) return;
      const from = this.state!.covered.below + GAME_SIZE_ABOVE;
      const place: Rect = {
        left: table.left + x,
        top: table.top + table.height - from - size,
        width: size,
        height: size,
      };
      this.renderer.setViewport(...this.onCanvas(place));
      this.renderer.setScissor(...this.onCanvas(place));
      this.renderer.setClearColor(
        new Color(this.state!.dark ? "#3d464b" : "#c3cccf"),
      );
      this.renderer.clear();
      this.showOnly(what);
      this.renderer.render(this.scene, far);
    });
    this.renderer.setViewport(...this.onCanvas(table));
  }

  private fog(table: Rect): void {
    const { dark } = this.state!;
    const { uniforms } = this.fogScene.material;
    uniforms.high.value.set(dark ? "#4d565b" : "#cdd5d8");
    uniforms.low.value.set(dark ? "#363e43" : "#b3bdc2");
    this.renderer.setScissor(...this.onCanvas(table));
    this.renderer.clear();
    this.renderer.render(this.fogScene.scene, this.sheet.camera);
  }

  private visibleViews(): PartView[] {
    return [...this.parts.views.values()].filter(
      (view) => !this.state?.hidden.includes(view.name),
    );
  }

  /** Whether the source lies under a point of the table. */
  private sourceAt(x: number): boolean {
    if (!this.hasGame()) return true;
    if (this.tries()) return false;
    if (this.compares())
      return this.state!.compareBy === "divider"
        ? x < this.rects().table.left + this.split()
        : this.state!.compareBy === "blink" && !this.blinked;
    return this.state?.show === "source";
  }

  private cast(x: number, y: number, source: boolean): Hit | null {
    this.placeCamera();
    const [cx, cy] = this.onTable(x, y);
    return castAt(this.visibleViews(), this.camera, cx, cy, source);
  }

  private onSheet(x: number, y: number) {
    const { sheet } = this.rects();
    return sheet && isWithin(sheet, x, y)
      ? this.sheet.faceAt(x, y, this.visibleViews())
      : undefined;
  }

  /** Pixels as −1 … 1 over the table. */
  private onTable(x: number, y: number): [number, number] {
    const { left, top, width, height } = this.rects().table;
    return [(2 * (x - left)) / width - 1, 1 - (2 * (y - top)) / height];
  }

  /** A small PNG of the table as it stands. */
  private async takePicture(): Promise<void> {
    this.render();
    const { table } = this.rects();
    const small = new OffscreenCanvas(320, 200);
    const ratio = this.canvas.width / this.width;
    const height = Math.min(table.height, (table.width * 200) / 320);
    const width = (height * 320) / 200;
    small
      .getContext("2d")!
      .drawImage(
        this.canvas,
        (table.left + (table.width - width) / 2) * ratio,
        (table.top + (table.height - height) / 2) * ratio,
        width * ratio,
        height * ratio,
        0,
        0,
        320,
        200,
      );
    const blob = await small.convertToBlob({ type: "image/png" });
    this.post({ kind: "picture", png: await blob.arrayBuffer() });
  }
}
