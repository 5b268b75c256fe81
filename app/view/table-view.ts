import {
  Box3,
  Color,
  DirectionalLight,
  HemisphereLight,
  LineBasicMaterial,
  LineSegments,
  Mesh as ThreeMesh,
  MeshBasicMaterial,
  OrthographicCamera,
  PerspectiveCamera,
  PlaneGeometry,
  Scene,
  WebGLRenderer,
} from "three";
import type { AssetDocument } from "../../core/asset/document";
import { StreamLoader, lines } from "./geometry";
import { MapTextures } from "./map-textures";
import type { FromView, ToView, ViewState } from "./messages";
import { FOV, Orbit } from "./orbit";
import { PartSet } from "./part-set";
import { levelAt, Preview } from "./preview";
import type { PartView } from "./part-view";
import type { Hit } from "./picking";
import { castAt, partOnSheet } from "./picking";
import { checkerTexture, fogScene, softRoom } from "./room";
import { FaceSelection } from "./selection";
import { Measure, PlaceMarks, References } from "./surroundings";
import { countUnseen } from "./unseen-count";

/** Everything that draws: lives in a worker with the page's canvas, so that no mesh ever holds up the page. */
export class TableView {
  private readonly renderer: WebGLRenderer;
  private readonly scene = new Scene();
  private readonly sheetScene = new Scene();
  private readonly camera = new PerspectiveCamera(FOV, 1, 0.01, 100);
  private readonly sheetCamera = new OrthographicCamera(
    -0.1,
    1.1,
    1.1,
    -0.1,
    -1,
    1,
  );
  private readonly loader = new StreamLoader();
  private readonly parts = new PartSet(this.loader);
  /** The parts of another revision, on the left of the divider. */
  private readonly others = new PartSet(this.loader);
  private readonly maps = new MapTextures(this.loader);
  private readonly selection = new FaceSelection();
  private readonly measure = new Measure();
  private readonly references = new References();
  private readonly marks = new PlaceMarks();
  private readonly key = new DirectionalLight("#fff6e8", 1.35);
  private readonly chosenEdges = new LineSegments(
    lines([]),
    new LineBasicMaterial({ color: "#c2185b", depthTest: false }),
  );
  private readonly sheetGround: ThreeMesh<PlaneGeometry, MeshBasicMaterial>;
  private readonly checker = checkerTexture();
  private readonly fogScene = fogScene();
  private readonly orbit = new Orbit();
  private document: AssetDocument | null = null;
  private other: AssetDocument | null = null;
  private state: ViewState | null = null;
  private sheetAt = { x: 0.5, y: 0.5, zoom: 1 };
  private width = 1;
  private height = 1;
  private queued = false;
  /** Nobody has chosen a view yet: every part that arrives is framed with the others. */
  private unframed = true;
  private told = "";
  private readonly tried: Preview;

  constructor(
    private readonly canvas: OffscreenCanvas,
    private readonly tell: (message: FromView) => void,
  ) {
    this.tried = new Preview(this.loader, this.parts, this.tell);
    this.renderer = new WebGLRenderer({
      canvas: canvas as unknown as HTMLCanvasElement,
      antialias: true,
      preserveDrawingBuffer: true,
    });
    this.renderer.autoClear = false;
    const fill = new HemisphereLight("#e6edf0", "#8d8476", 0.95);
    this.scene.add(
      fill,
      this.key,
      this.parts.sources,
      this.parts.games,
      this.parts.hulls,
      this.others.sources,
      this.others.games,
      this.chosenEdges,
      this.selection.object,
      this.measure.object,
      this.references.object,
      this.marks.object,
    );
    this.chosenEdges.renderOrder = 5;
    this.scene.environment = softRoom(this.renderer);
    this.scene.environmentIntensity = 0.45;
    this.sheetGround = new ThreeMesh(
      new PlaneGeometry(1, 1),
      new MeshBasicMaterial({ color: "#fbfaf7" }),
    );
    this.sheetGround.position.set(0.5, 0.5, -0.5);
    const frame = new LineSegments(
      lines([
        0, 0, 0, 1, 0, 0, 1, 0, 0, 1, 1, 0, 1, 1, 0, 0, 1, 0, 0, 1, 0, 0, 0, 0,
      ]),
      new LineBasicMaterial({ color: "#7b8288" }),
    );
    this.sheetScene.add(this.sheetGround, frame, this.parts.islands);
  }

  handle(message: Exclude<ToView, { kind: "start" }>): void {
    switch (message.kind) {
      case "size":
        this.width = Math.max(1, message.width);
        this.height = Math.max(1, message.height);
        this.renderer.setPixelRatio(message.ratio);
        this.renderer.setSize(this.width, this.height, false);
        break;
      case "document":
        this.guard(this.load(message.document));
        return;
      case "other":
        this.guard(this.loadOther(message.document));
        return;
      case "state":
        this.take(message.state);
        break;
      case "camera":
        this.orbit.at = message.camera;
        this.unframed = !message.camera;
        break;
      case "move":
        this.move(message);
        break;
      case "look":
        this.orbit.lookAt(message.at, message.radius);
        this.tell({ kind: "camera", camera: this.orbit.at! });
        break;
      case "pick":
        this.pick(message);
        return;
      case "choose":
        this.choose(message);
        break;
      case "box":
        this.chooseInBox(message);
        break;
      case "alter":
        this.selection.alter(message.what, this.visibleViews());
        this.tellFaces();
        break;
      case "picture":
        this.guard(this.takePicture());
        return;
    }
    this.draw();
  }

  private guard(work: Promise<void>): void {
    work.catch((error: unknown) =>
      this.tell({
        kind: "failed",
        message: error instanceof Error ? error.message : String(error),
      }),
    );
  }

  private take(state: ViewState): void {
    const before = this.state;
    this.state = state;
    // What the view itself chose comes back with the page's state and is the same.
    const faces = JSON.stringify([state.facesOf, state.faces]);
    if (faces !== this.told) {
      this.told = faces;
      this.selection.set(state.facesOf, state.faces, this.parts.views);
      this.tellFaces();
    }
    if (JSON.stringify(before?.place) !== JSON.stringify(state.place))
      this.marks.show(
        state.place,
        this.parts.views.get(state.place?.part ?? "")?.sourceMesh ?? null,
      );
    this.dress();
    this.tryOut();
  }

  /** Shows a budget or a level of detail in place of the game meshes, as the page wants it. */
  private tryOut(): void {
    const { state, document } = this;
    if (!state || !document) return;
    this.guard(
      this.tried
        .show(document, {
          budget: state.previewBudget,
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
        this.tell({
          kind: "loading",
          done,
          total: document.parts.length,
          what: part.name,
        }),
    );
    if (!whole) return;
    await this.maps.update(document);
    await this.references.update(document, this.loader);
    this.forgetUnused();
    if (this.unframed) this.frame();
    this.unframed = this.parts.views.size === 0;
    if (this.state) {
      this.selection.set(
        this.state.facesOf,
        this.state.faces,
        this.parts.views,
      );
      this.tellFaces();
    }
    this.marks.show(null, null);
    this.tried.forget();
    this.dress();
    this.tryOut();
    this.draw();
    const count = (which: "source" | "game") =>
      document.parts.reduce(
        (sum, part) => sum + (part[which]?.triangles ?? 0),
        0,
      );
    this.tell({
      kind: "ready",
      triangles: { source: count("source"), game: count("game") },
    });
  }

  private async loadOther(document: AssetDocument | null): Promise<void> {
    this.other = document;
    if (document)
      await this.others.update(document, (_, __, view) => {
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

  private dress(): void {
    for (const view of this.parts.views.values()) this.dressPart(view);
    for (const view of this.others.views.values()) this.dressPart(view);
    const { state } = this;
    if (!state) return;
    const shown = state.sheetShows;
    const map =
      shown === "normal" || shown === "ao" ? this.maps.pictures[shown] : null;
    this.sheetGround.material.map = map;
    this.sheetGround.material.color.set(
      map ? "#ffffff" : state.dark ? "#d9d6ce" : "#fbfaf7",
    );
    this.sheetGround.material.needsUpdate = true;
    this.measure.place(this.wholeBox(), state.figure);
    this.references.object.visible = state.references;
    this.drawChosenEdges();
    if (state.overlay === "seen")
      this.tell({
        kind: "unseen",
        ...countUnseen(this.parts.views.values(), state),
      });
  }

  private dressPart(view: PartView): void {
    if (this.state)
      view.dress(
        this.state,
        { normal: this.maps.normal, ao: this.maps.ao, checker: this.checker },
        this.document?.looks ?? [],
        this.parts.size,
      );
  }

  private drawChosenEdges(): void {
    const points: number[] = [];
    const { state } = this;
    for (const edge of state?.edges ?? []) {
      const match = /^(.*):(\d+)-(\d+)$/.exec(edge);
      const view = this.parts.views.get(match?.[1] ?? "");
      const mesh = view && this.selection.meshOf(view);
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

  private frame(): void {
    const box = new Box3();
    const chosen = this.state?.selected ?? [];
    for (const view of this.parts.views.values())
      if (!chosen.length || chosen.includes(view.name))
        box.expandByObject(view.source).expandByObject(view.game);
    if (this.state?.figure && !chosen.length)
      box.expandByObject(this.measure.object.children[0]);
    this.orbit.frame(box, this.aspect());
    this.measure.place(this.wholeBox(), this.state?.figure ?? false);
    if (this.orbit.at) this.tell({ kind: "camera", camera: this.orbit.at });
  }

  private move({ how, x, y, over }: Extract<ToView, { kind: "move" }>): void {
    if (how === "frame") {
      this.sheetAt = { x: 0.5, y: 0.5, zoom: 1 };
      this.frame();
    } else if (over === "sheet") this.moveSheet(how, x, y);
    else {
      this.orbit.move(how, x, y, this.height);
      if (this.state && this.state.level < 0) this.tryOut();
      if (this.orbit.at) this.tell({ kind: "camera", camera: this.orbit.at });
    }
  }

  private moveSheet(how: "orbit" | "pan" | "zoom", x: number, y: number): void {
    const { sheetAt } = this;
    if (how === "zoom") {
      sheetAt.zoom = Math.max(
        0.5,
        Math.min(40, sheetAt.zoom * Math.exp(-y * 0.0015)),
      );
      return;
    }
    const scale =
      1.15 /
      sheetAt.zoom /
      Math.min(this.width - this.tableWidth(), this.height);
    sheetAt.x -= x * scale;
    sheetAt.y += y * scale;
  }

  private tableWidth(): number {
    return Math.round(this.width * (1 - (this.state?.sheetShare ?? 0)));
  }

  private aspect(): number {
    return this.tableWidth() / this.height;
  }

  private placeCamera(): void {
    this.orbit.place(this.camera, this.aspect());
    const yaw = this.orbit.at?.yaw ?? 0;
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
    const table = this.tableWidth();
    renderer.setScissorTest(true);
    this.placeCamera();
    renderer.setViewport(0, 0, table, this.height);
    renderer.setScissor(0, 0, table, this.height);
    this.fog(table);
    const split = this.split();
    const right = state.show === "source" ? "source" : "game";
    if (split > 0)
      this.renderSide(
        0,
        split,
        state.show === "revisions" ? "other" : "source",
      );
    if (split < table)
      this.renderSide(
        split,
        table - split,
        this.hasGame() && !(state.show === "revisions" && !this.hasGame())
          ? right
          : "source",
      );
    if (table < this.width) this.renderSheet(table);
  }

  /** How many pixels on the left show the other side of a comparison. */
  private split(): number {
    const { state } = this;
    const has = (which: "source" | "game") =>
      this.document?.parts.some((part) => part[which]) ?? false;
    const comparing =
      state?.show === "revisions"
        ? this.other !== null
        : state?.show === "compare" && has("source") && has("game");
    return comparing ? Math.round(this.tableWidth() * state!.divider) : 0;
  }

  private hasGame(): boolean {
    return this.document?.parts.some((part) => part.game) ?? false;
  }

  private renderSide(
    x: number,
    width: number,
    what: "source" | "game" | "other",
  ): void {
    const otherGame = this.other?.parts.some((part) => part.game) ?? false;
    this.parts.sources.visible = what === "source";
    this.parts.games.visible = what === "game";
    this.others.sources.visible = what === "other" && !otherGame;
    this.others.games.visible = what === "other" && otherGame;
    this.parts.hulls.visible = (this.state?.hulls ?? false) && what !== "other";
    this.chosenEdges.visible = this.selection.object.visible =
      what === this.selection.which;
    this.marks.object.visible = what === "source";
    this.renderer.setScissor(x, 0, width, this.height);
    this.renderer.clearDepth();
    this.renderer.render(this.scene, this.camera);
  }

  private renderSheet(table: number): void {
    const { renderer } = this;
    const width = this.width - table;
    renderer.setScissor(table, 0, width, this.height);
    renderer.setClearColor(new Color(this.state!.dark ? "#262c30" : "#d9d5ca"));
    renderer.clear();
    renderer.setViewport(table, 0, width, this.height);
    const half = 0.575 / this.sheetAt.zoom;
    const wide = width / this.height;
    const [hx, hy] = wide > 1 ? [half * wide, half] : [half, half / wide];
    this.sheetCamera.left = this.sheetAt.x - hx;
    this.sheetCamera.right = this.sheetAt.x + hx;
    this.sheetCamera.top = this.sheetAt.y + hy;
    this.sheetCamera.bottom = this.sheetAt.y - hy;
    this.sheetCamera.updateProjectionMatrix();
    renderer.render(this.sheetScene, this.sheetCamera);
  }

  private fog(width: number): void {
    const { dark } = this.state!;
    const { uniforms } = this.fogScene.material;
    uniforms.high.value.set(dark ? "#4d565b" : "#cdd5d8");
    uniforms.low.value.set(dark ? "#363e43" : "#b3bdc2");
    this.renderer.setScissor(0, 0, width, this.height);
    this.renderer.clear();
    this.renderer.render(this.fogScene.scene, this.sheetCamera);
  }

  private visibleViews(): PartView[] {
    return [...this.parts.views.values()].filter(
      (view) => !this.state?.hidden.includes(view.name),
    );
  }

  /** Whether the source lies under a point of the table. */
  private sourceAt(x: number): boolean {
    if (!this.hasGame()) return true;
    if (this.state?.show === "compare") return x < this.split();
    return this.state?.show === "source";
  }

  private cast(x: number, y: number, source: boolean): Hit | null {
    this.placeCamera();
    const [cx, cy] = this.onTable(x, y);
    return castAt(this.visibleViews(), this.camera, cx, cy, source);
  }

  /** Pixels as −1 … 1 over the table. */
  private onTable(x: number, y: number): [number, number] {
    return [(2 * x) / this.tableWidth() - 1, 1 - (2 * y) / this.height];
  }

  private pick({ x, y, what, add }: Extract<ToView, { kind: "pick" }>): void {
    if (what === "edge") {
      const hit = this.sourceAt(x) ? null : this.cast(x, y, false);
      const [edge = null] =
        hit && this.selectionOn("game")
          ? this.selection.edgesAt(hit.view, "edge", hit.point)
          : [];
      this.tell({ kind: "edge", edge });
      return;
    }
    const table = this.tableWidth();
    const { left, right, top, bottom } = this.sheetCamera;
    const part =
      x >= table
        ? partOnSheet(
            this.parts.views.values(),
            left + ((right - left) * (x - table)) / (this.width - table),
            top + ((bottom - top) * y) / this.height,
          )
        : (this.cast(x, y, this.sourceAt(x))?.view.name ?? null);
    this.tell({ kind: "picked", part, add });
  }

  /** Chooses on this mesh from now on; what was chosen on the other one is dropped. */
  private selectionOn(which: "source" | "game"): true {
    if (this.selection.which !== which)
      this.selection.set(which, {}, this.parts.views);
    return true;
  }

  private choose(message: Extract<ToView, { kind: "choose" }>): void {
    const { x, y, tool, how } = message;
    const source = this.sourceAt(x);
    const hit = this.cast(x, y, source);
    this.selectionOn(source ? "source" : "game");
    const mesh = hit && this.selection.meshOf(hit.view);
    if (tool === "edge" || tool === "loop" || tool === "ring") {
      const found = hit
        ? this.selection.edgesAt(hit.view, tool, hit.point)
        : [];
      const before = how === "only" ? [] : (this.state?.edges ?? []);
      const edges =
        how === "remove"
          ? before.filter((edge) => !found.includes(edge))
          : [...new Set([...before, ...found])];
      this.tell({ kind: "edges", edges });
      this.tellFaces();
      return;
    }
    if (!hit || !mesh) {
      if (how === "only" && tool !== "paint")
        this.selection.set(this.selection.which, {}, this.parts.views);
    } else {
      const reach =
        tool === "paint"
          ? this.orbit.metres(message.reach, hit.distance, this.height)
          : message.reach;
      this.selection.choose(
        hit.view,
        tool,
        hit.view.faceOf(mesh, hit.triangle),
        hit.point,
        how,
        reach,
      );
    }
    this.tellFaces();
  }

  private chooseInBox(message: Extract<ToView, { kind: "box" }>): void {
    this.placeCamera();
    this.selectionOn(this.sourceAt(message.from[0]) ? "source" : "game");
    const [ax, ay] = this.onTable(...message.from);
    const [bx, by] = this.onTable(...message.to);
    this.selection.chooseInBox(
      this.visibleViews(),
      this.camera,
      {
        left: Math.min(ax, bx),
        right: Math.max(ax, bx),
        bottom: Math.min(ay, by),
        top: Math.max(ay, by),
      },
      message.how,
    );
    this.tellFaces();
  }

  private tellFaces(): void {
    const faces = this.selection.faces();
    this.told = JSON.stringify([this.selection.which, faces]);
    this.tell({
      kind: "faces",
      faces,
      of: this.selection.which,
      figures: this.selection.figures(),
    });
  }

  /** A small PNG of the table as it stands. */
  private async takePicture(): Promise<void> {
    this.render();
    const table = Math.max(1, this.tableWidth());
    const small = new OffscreenCanvas(320, 200);
    const ratio = this.canvas.width / this.width;
    const height = Math.min(this.height, (table * 200) / 320);
    const width = (height * 320) / 200;
    small
      .getContext("2d")!
      .drawImage(
        this.canvas,
        ((table - width) / 2) * ratio,
        ((this.height - height) / 2) * ratio,
        width * ratio,
        height * ratio,
        0,
        0,
        320,
        200,
      );
    const blob = await small.convertToBlob({ type: "image/png" });
    this.tell({ kind: "picture", png: await blob.arrayBuffer() });
  }
}
