import { HemisphereLight, Scene, WebGLRenderer } from "three";
import type { AssetDocument } from "../../core/asset/document";
import type { FromView, ToView, ViewState } from "../shared/messages";
import { levelAt, Preview } from "./preview";
import { Choosing } from "./choosing";
import { drawOutlines } from "./outlines";
import { SeamTracer } from "./seam-tracer";
import { TableCamera } from "./table-camera";
import { TableDrawing } from "./table-drawing";
import { TableScene } from "./table-scene";
import { TableStyle } from "./table-style";
import { streamsIn } from "./trial-document";
import { uvFacts } from "./uv-facts";
import { HullWork } from "./hull-work";
import { softRoom } from "./room";
import { Portraits } from "./portraits";
import { PlaceMarks } from "./surroundings";

/** How long either mesh is shown when they take turns, ms. */
const BLINK = 650;

/** Everything that draws: lives in a worker with the page's canvas, so that no mesh ever holds up the page. */
export class TableView {
  private readonly renderer: WebGLRenderer;
  private readonly scene = new Scene();
  private readonly table = new TableScene();
  private readonly seams: SeamTracer;
  private readonly drawing: TableDrawing;
  private readonly style: TableStyle;
  private readonly camera: TableCamera;
  private readonly choosing: Choosing;
  private readonly marks = new PlaceMarks();
  private readonly hulls: HullWork;
  private readonly portraits: Portraits;
  private willTryOut = false;
  private queued = false;
  private blinker: ReturnType<typeof setInterval> | null = null;
  private readonly tried: Preview;

  constructor(
    private readonly canvas: OffscreenCanvas,
    private readonly post: (message: FromView) => void,
  ) {
    this.tried = new Preview(this.table.loader, this.table.parts, this.post);
    this.seams = new SeamTracer(this.table, this.post, () => this.draw());
    this.choosing = new Choosing({
      parts: this.table.parts,
      orbit: this.table.orbit,
      camera: this.table.camera,
      tell: this.post,
      state: () => this.table.state,
      size: () => this.table.clearSize(),
      sourceAt: (x) => this.table.sourceAt(x),
      cast: (x, y, source) => this.table.cast(x, y, source),
      onTable: (x, y) => this.table.onTable(x, y),
      visibleViews: () => this.table.visibleViews(),
      onSheet: (x, y) => this.table.onSheet(x, y),
      chosen: () =>
        this.table.sheet.showChosen(this.choosing.selection.onGames()),
    });
    this.style = new TableStyle(
      this.table,
      this.choosing.selection,
      this.post,
      () => this.draw(),
    );
    this.camera = new TableCamera(
      this.table,
      this.style.measure,
      this.post,
      () => {
        if (this.table.state && this.table.state.level < 0) this.tryOut();
      },
    );
    this.renderer = new WebGLRenderer({
      canvas: canvas as unknown as HTMLCanvasElement,
      antialias: true,
      preserveDrawingBuffer: true,
    });
    this.renderer.autoClear = false;
    this.hulls = new HullWork(
      this.table,
      this.scene,
      this.post,
      () => this.draw(),
      (work) => this.guard(work),
    );
    this.drawing = new TableDrawing(this.table, this.renderer, this.scene, {
      tracing: this.seams.object,
      chosenEdges: this.style.chosenEdges,
      marks: this.marks.object,
      selection: this.choosing.selection,
      bodies: () => this.hulls.drop.bodies(),
    });
    this.portraits = new Portraits(this.studio());
    const fill = new HemisphereLight("#e6edf0", "#8d8476", 0.6);
    this.scene.add(
      fill,
      this.table.key,
      this.table.parts.sources,
      this.table.parts.games,
      this.table.parts.hulls,
      ...[this.table.others.left, this.table.others.right].flatMap((each) => [
        each.sources,
        each.games,
      ]),
      this.style.chosenEdges,
      this.seams.object,
      this.choosing.selection.object,
      this.style.measure.object,
      this.style.references.object,
      this.marks.object,
    );
    this.style.chosenEdges.renderOrder = 5;
    this.scene.environment = softRoom(this.renderer);
    // Bone that faces the light stays a little below white, so that its form shows.
    this.scene.environmentIntensity = 0.34;
  }

  /** What pictures are taken with. */
  private studio(): ConstructorParameters<typeof Portraits>[0] {
    const { canvas, renderer, table, style, drawing, tried, post } = this;
    return {
      ...{ canvas, renderer, table, style, drawing, tried, post },
      guard: (work) => this.guard(work),
      done: () => this.tryOut(),
    };
  }

  handle(message: Exclude<ToView, { kind: "start" }>): void {
    if (this.hulls.takes(message) || this.portraits.takes(message)) return;
    switch (message.kind) {
      case "size":
        this.table.width = Math.max(1, message.width);
        this.table.height = Math.max(1, message.height);
        this.renderer.setPixelRatio(message.ratio);
        this.renderer.setSize(this.table.width, this.table.height, false);
        this.camera.keepFramed();
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
        this.table.orbit.at = message.camera;
        this.camera.unframed = !message.camera;
        break;
      case "move":
        this.camera.move(message);
        break;
      case "zoom":
        this.camera.zoom(message);
        break;
      case "turn-about":
        this.camera.turnAbout(message.x, message.y);
        break;
      case "look":
        this.table.orbit.lookAt(message.at, message.radius);
        this.post({ kind: "camera", camera: this.table.orbit.at! });
        break;
      case "pick":
        this.choosing.pick(message);
        return;
      case "choose":
        this.choosing.choose(message);
        break;
      case "box":
        this.table.placeCamera();
        this.choosing.chooseInBox(message);
        break;
      case "faces":
        this.choosing.reset({ faces: message.faces, facesOf: message.of });
        break;
      case "alter":
        this.choosing.alter(message.what);
        break;
      case "trace":
        this.seams.trace(message);
        break;
      case "drag":
        this.dragSheet(message);
        break;
      case "pointer":
        this.table.pointer = this.table.onTable(message.x, message.y);
        break;
      case "settle":
        this.choosing.settle();
        return;
      case "outlines":
        this.post({
          kind: "outlines",
          pictures: drawOutlines(
            [...this.table.parts.views.values()],
            message.towards,
            message.size,
          ),
        });
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
    const before = this.table.state;
    this.table.state = state;
    this.camera.keepFramed();
    if (JSON.stringify(before?.place) !== JSON.stringify(state.place))
      this.marks.show(
        state.place,
        this.table.parts.views.get(state.place?.part ?? "")?.sourceMesh ?? null,
      );
    this.style.apply();
    this.hulls.update(state);
    this.tryOutSoon();
    this.seams.trySeams();
    this.blink();
  }

  /** Lets source and game mesh take turns where that is asked. */
  private blink(): void {
    const wanted =
      this.table.compares() && this.table.state?.compareBy === "blink";
    if (wanted === (this.blinker !== null)) return;
    if (this.blinker !== null) clearInterval(this.blinker);
    this.blinker = wanted
      ? setInterval(() => {
          this.table.blinked = !this.table.blinked;
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
    const { state, document } = this.table;
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
              ? levelAt(state.switchPoints, this.table.orbit.at?.distance ?? 0)
              : state.level,
        })
        .then((changed) => {
          if (changed) this.draw();
        }),
    );
  }

  private async load(document: AssetDocument): Promise<void> {
    this.table.document = document;
    this.hulls.drop.stop();
    const whole = await this.table.parts.update(
      document,
      (_, __, view) => {
        this.style.applyTo(view);
        if (this.camera.unframed) this.camera.frame();
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
    await this.style.maps.update(document);
    this.style.ownLooks.update(document);
    await this.style.references.update(document, this.table.loader);
    this.forgetUnused();
    if (this.camera.unframed) this.camera.frame();
    this.camera.unframed = this.table.parts.views.size === 0;
    if (this.table.state) this.choosing.reset(this.table.state);
    this.marks.show(null, null);
    this.tried.forget();
    this.seams.drop();
    this.post({
      kind: "facts",
      facts: uvFacts(this.table.parts.views.values()),
    });
    this.style.apply();
    if (this.table.state) this.hulls.update(this.table.state);
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
    this.table.other[side] = document;
    if (document)
      await this.table.others[side].update(document, (_, __, view) => {
        this.style.applyTo(view);
        this.draw();
      });
    this.forgetUnused();
    this.draw();
  }

  private forgetUnused(): void {
    this.table.loader.keepOnly(
      streamsIn(this.table.document, this.table.other),
    );
  }

  private dragSheet({ what, x, y }: Extract<ToView, { kind: "drag" }>): void {
    const { state } = this.table;
    if (!state) return;
    if (what === "move") this.table.sheet.dragBy(x, y);
    else if (what === "end") {
      const moved = this.table.sheet.drop();
      if (moved)
        this.post({
          kind: "dragged",
          x: moved.x * state.sheetWidth,
          y: moved.y * state.sheetHeight,
          landing: moved.landing,
        });
    } else {
      const hit = this.table.onSheet(x, y);
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
      this.table.sheet.grab(
        this.table.visibleViews(),
        (view) => this.choosing.selection.marksOf(view),
        state.padding / state.sheetWidth,
      );
    }
  }

  private draw(): void {
    if (this.queued) return;
    this.queued = true;
    requestAnimationFrame(() => {
      this.queued = false;
      this.hulls.place();
      this.drawing.render();
    });
  }
}
