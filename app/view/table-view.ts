import {
  Box3,
  Color,
  DataTexture,
  DirectionalLight,
  GridHelper,
  Group,
  HemisphereLight,
  LinearFilter,
  LinearMipmapLinearFilter,
  LineBasicMaterial,
  LineSegments,
  Mesh as ThreeMesh,
  MeshBasicMaterial,
  NearestFilter,
  OrthographicCamera,
  PerspectiveCamera,
  PlaneGeometry,
  PMREMGenerator,
  RepeatWrapping,
  RGBAFormat,
  Scene,
  SphereGeometry,
  BackSide,
  Raycaster,
  SRGBColorSpace,
  NoColorSpace,
  Vector2,
  Vector3,
  WebGLRenderer,
  ShaderMaterial,
} from "three";
import type { Texture } from "three";
import type {
  AssetDocument,
  MapDocument,
  PartDocument,
} from "../../core/asset/document";
import { profileOf } from "../../core/asset/asset";
import type { Camera } from "../stores/view";
import { StreamLoader, lines } from "./geometry";
import type { FromView, ToView, ViewState } from "./messages";
import { PartView } from "./part-view";

const FOV = 32;

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
  private readonly parts = new Map<string, PartView>();
  private readonly sources = new Group();
  private readonly games = new Group();
  private readonly hulls = new Group();
  private readonly islands = new Group();
  private readonly key = new DirectionalLight("#fff6e8", 1.35);
  private readonly chosenEdges = new LineSegments(
    lines([]),
    new LineBasicMaterial({ color: "#c2185b", depthTest: false }),
  );
  private readonly sheetGround: ThreeMesh<PlaneGeometry, MeshBasicMaterial>;
  private readonly checker = checkerTexture();
  private readonly grid = new GridHelper(2, 20, "#8e9a9f", "#a7b1b6");
  private normal: Texture | null = null;
  private ao: Texture | null = null;
  /** The same maps as pictures to be looked at: their numbers are shown as they are. */
  private sheetMaps: { normal: Texture | null; ao: Texture | null } = {
    normal: null,
    ao: null,
  };
  private mapKeys = "";
  private document: AssetDocument | null = null;
  private state: ViewState | null = null;
  private orbit: Camera | null = null;
  private sheetAt = { x: 0.5, y: 0.5, zoom: 1 };
  private width = 1;
  private height = 1;
  private ratio = 1;
  private queued = false;
  /** Nobody has chosen a view yet: every part that arrives is framed with the others. */
  private unframed = true;
  private loads = 0;

  constructor(
    canvas: OffscreenCanvas,
    private readonly tell: (message: FromView) => void,
  ) {
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
      this.sources,
      this.games,
      this.hulls,
      this.chosenEdges,
      this.grid,
    );
    (this.grid.material as LineBasicMaterial).transparent = true;
    (this.grid.material as LineBasicMaterial).opacity = 0.35;
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
    this.sheetScene.add(this.sheetGround, frame, this.islands);
  }

  handle(message: Exclude<ToView, { kind: "start" }>): void {
    switch (message.kind) {
      case "size":
        this.width = Math.max(1, message.width);
        this.height = Math.max(1, message.height);
        this.ratio = message.ratio;
        this.renderer.setPixelRatio(message.ratio);
        this.renderer.setSize(this.width, this.height, false);
        break;
      case "document":
        void this.load(message.document).catch((error: unknown) =>
          this.tell({
            kind: "failed",
            message: error instanceof Error ? error.message : String(error),
          }),
        );
        return;
      case "state":
        this.state = message.state;
        this.dress();
        break;
      case "camera":
        this.orbit = message.camera;
        this.unframed = !message.camera;
        break;
      case "move":
        this.move(message);
        break;
      case "pick":
        if (message.what === "edge") this.pickEdge(message.x, message.y);
        else
          this.tell({
            kind: "picked",
            part: this.pickPart(message.x, message.y),
            add: message.add,
          });
        return;
    }
    this.draw();
  }

  private async load(document: AssetDocument): Promise<void> {
    const turn = ++this.loads;
    this.document = document;
    const present = new Set(document.parts.map((part) => part.name));
    for (const [name, view] of this.parts)
      if (!present.has(name)) {
        for (const group of [view.source, view.game, view.hulls, view.sheet])
          group.removeFromParent();
        this.parts.delete(name);
      }
    const size = sizeOf(document);
    let done = 0;
    for (const part of document.parts) {
      if (turn !== this.loads) return;
      this.tell({
        kind: "loading",
        done,
        total: document.parts.length,
        what: part.name,
      });
      await this.loadPart(part, size);
      done++;
      if (this.unframed) this.frame();
      this.draw();
    }
    await this.loadMaps(document);
    if (turn !== this.loads) return;
    this.loader.keepOnly(
      new Set(
        [...JSON.stringify(document).matchAll(/"hash":"([0-9a-f]{64})"/g)].map(
          ([, hash]) => hash,
        ),
      ),
    );
    if (this.unframed) this.frame();
    this.unframed = this.parts.size === 0;
    this.dress();
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

  private async loadPart(part: PartDocument, size: number): Promise<void> {
    const key = JSON.stringify([
      part.source?.streams,
      part.game?.streams,
      part.hulls.map((hull) => hull.positions.hash),
      part.colour,
    ]);
    let view = this.parts.get(part.name);
    if (view?.key === key) return;
    if (!view) {
      view = new PartView(part.name, this.parts.size + 1);
      this.parts.set(part.name, view);
      this.sources.add(view.source);
      this.games.add(view.game);
      this.hulls.add(view.hulls);
      this.islands.add(view.sheet);
    }
    view.setColour(part.colour);
    await view.update(part, this.loader, size);
    view.key = key;
    if (this.state) this.dressPart(view);
  }

  private async loadMaps(document: AssetDocument): Promise<void> {
    const key = JSON.stringify([document.maps, document.brief.profile]);
    if (key === this.mapKeys) return;
    this.mapKeys = key;
    this.normal?.dispose();
    this.ao?.dispose();
    const find = (kind: string) =>
      document.maps.find((map) => map.kind === kind);
    this.normal = await this.texture(
      find("normal"),
      !profileOf(document.brief).greenUp,
    );
    this.ao = await this.texture(find("ao"), false);
    this.sheetMaps = { normal: asPicture(this.normal), ao: asPicture(this.ao) };
  }

  /** A baked map as a texture; its first row becomes the last, as textures count from the bottom. */
  private async texture(
    map: MapDocument | undefined,
    flipGreen: boolean,
  ): Promise<Texture | null> {
    if (!map) return null;
    const pixels = (await this.loader.load<Uint8Array | Uint16Array>(
      map.pixels,
    ))!;
    const shift = map.depth === 16 ? 8 : 0;
    const data = new Uint8Array(4 * map.width * map.height);
    for (let y = 0; y < map.height; y++)
      for (let x = 0; x < map.width; x++) {
        const from = map.channels * ((map.height - 1 - y) * map.width + x);
        const to = 4 * (y * map.width + x);
        for (let k = 0; k < 3; k++)
          data[to + k] = pixels[from + (map.channels === 3 ? k : 0)] >> shift;
        if (flipGreen) data[to + 1] = 255 - data[to + 1];
        data[to + 3] = 255;
      }
    const texture = new DataTexture(data, map.width, map.height, RGBAFormat);
    texture.colorSpace = NoColorSpace;
    texture.minFilter = LinearMipmapLinearFilter;
    texture.magFilter = LinearFilter;
    texture.generateMipmaps = true;
    texture.anisotropy = 4;
    texture.needsUpdate = true;
    return texture;
  }

  private dress(): void {
    for (const view of this.parts.values()) this.dressPart(view);
    const { state } = this;
    if (!state) return;
    const map =
      state.sheetShows === "normal"
        ? this.sheetMaps.normal
        : state.sheetShows === "ao"
          ? this.sheetMaps.ao
          : null;
    this.sheetGround.material.map = map;
    this.sheetGround.material.color.set(
      map ? "#ffffff" : state.dark ? "#d9d6ce" : "#fbfaf7",
    );
    this.sheetGround.material.needsUpdate = true;
    this.drawChosenEdges();
  }

  private dressPart(view: PartView): void {
    if (this.state)
      view.dress(
        this.state,
        { normal: this.normal, ao: this.ao, checker: this.checker },
        this.document?.looks ?? [],
      );
  }

  private drawChosenEdges(): void {
    const points: number[] = [];
    for (const edge of this.state?.edges ?? []) {
      const match = /^(.*):(\d+)-(\d+)$/.exec(edge);
      const mesh = this.parts.get(match?.[1] ?? "")?.gameMesh;
      if (!match || !mesh) continue;
      for (const v of [Number(match[2]), Number(match[3])])
        points.push(
          mesh.positions[3 * v],
          mesh.positions[3 * v + 1],
          mesh.positions[3 * v + 2],
        );
    }
    this.chosenEdges.geometry.dispose();
    this.chosenEdges.geometry = lines(points);
    this.chosenEdges.renderOrder = 5;
  }

  private bounds(): Box3 {
    const box = new Box3();
    const chosen = this.state?.selected ?? [];
    for (const view of this.parts.values())
      if (!chosen.length || chosen.includes(view.name))
        box.expandByObject(view.source).expandByObject(view.game);
    return box;
  }

  private frame(): void {
    const box = this.bounds();
    if (box.isEmpty()) return;
    const middle = box.getCenter(new Vector3());
    const yaw = this.orbit?.yaw ?? 0.6;
    const pitch = this.orbit?.pitch ?? 0.28;
    this.orbit = {
      yaw,
      pitch,
      distance: this.distanceFor(box, middle, yaw, pitch),
      target: [middle.x, middle.y, middle.z],
    };
    this.grid.position.y = new Box3()
      .setFromObject(this.sources)
      .expandByObject(this.games).min.y;
    this.tell({ kind: "camera", camera: this.orbit });
  }

  /** How far off the camera must be for every corner of a box to lie in the view, with a little room. */
  private distanceFor(box: Box3, middle: Vector3, yaw: number, pitch: number) {
    const back = new Vector3(
      Math.cos(pitch) * Math.sin(yaw),
      Math.sin(pitch),
      Math.cos(pitch) * Math.cos(yaw),
    );
    const right = new Vector3(Math.cos(yaw), 0, -Math.sin(yaw));
    const up = back.clone().cross(right);
    const slope = Math.tan(((FOV / 2) * Math.PI) / 180);
    const wide = (slope * this.tableWidth()) / this.height;
    let distance = 1e-6;
    for (let k = 0; k < 8; k++) {
      const corner = new Vector3(
        k & 1 ? box.max.x : box.min.x,
        k & 2 ? box.max.y : box.min.y,
        k & 4 ? box.max.z : box.min.z,
      ).sub(middle);
      const near = corner.dot(back);
      distance = Math.max(
        distance,
        near + (1.08 * Math.abs(corner.dot(right))) / wide,
        near + (1.16 * Math.abs(corner.dot(up))) / slope,
      );
    }
    return distance;
  }

  private move({ how, x, y, over }: Extract<ToView, { kind: "move" }>): void {
    if (how === "frame") {
      this.sheetAt = { x: 0.5, y: 0.5, zoom: 1 };
      this.frame();
      return;
    }
    if (over === "sheet") {
      const scale =
        1.15 /
        this.sheetAt.zoom /
        Math.min(this.width - this.tableWidth(), this.height);
      if (how === "zoom")
        this.sheetAt.zoom = Math.max(
          0.5,
          Math.min(40, this.sheetAt.zoom * Math.exp(-y * 0.0015)),
        );
      else {
        this.sheetAt.x -= x * scale;
        this.sheetAt.y += y * scale;
      }
      return;
    }
    const { orbit } = this;
    if (!orbit) return;
    if (how === "orbit") {
      orbit.yaw -= x * 0.008;
      orbit.pitch = Math.max(-1.55, Math.min(1.55, orbit.pitch + y * 0.008));
    } else if (how === "zoom") orbit.distance *= Math.exp(y * 0.0012);
    else {
      const step =
        (2 * orbit.distance * Math.tan(((FOV / 2) * Math.PI) / 180)) /
        this.height;
      this.placeCamera();
      const right = new Vector3().setFromMatrixColumn(
        this.camera.matrixWorld,
        0,
      );
      const up = new Vector3().setFromMatrixColumn(this.camera.matrixWorld, 1);
      orbit.target = [0, 1, 2].map(
        (k) =>
          orbit.target[k] -
          right.getComponent(k) * x * step +
          up.getComponent(k) * y * step,
      ) as Camera["target"];
    }
    this.tell({ kind: "camera", camera: orbit });
  }

  private tableWidth(): number {
    return Math.round(this.width * (1 - (this.state?.sheetShare ?? 0)));
  }

  private placeCamera(): void {
    const { orbit, camera } = this;
    if (!orbit) return;
    const [x, y, z] = orbit.target;
    const flat = Math.cos(orbit.pitch) * orbit.distance;
    camera.position.set(
      x + flat * Math.sin(orbit.yaw),
      y + Math.sin(orbit.pitch) * orbit.distance,
      z + flat * Math.cos(orbit.yaw),
    );
    camera.near = orbit.distance / 200;
    camera.far = orbit.distance * 20;
    camera.aspect = this.tableWidth() / this.height;
    camera.lookAt(x, y, z);
    camera.updateProjectionMatrix();
    camera.updateMatrixWorld();
    const light = ((this.state?.light ?? 35) * Math.PI) / 180 + orbit.yaw - 1.2;
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
    const paint = (x: number, width: number, colour: string) => {
      renderer.setScissor(x, 0, width, this.height);
      renderer.setClearColor(new Color(colour));
      renderer.clear();
    };
    this.placeCamera();
    renderer.setViewport(0, 0, table, this.height);
    renderer.setScissor(0, 0, table, this.height);
    this.fog(table);
    const hasBoth =
      this.document?.parts.some((part) => part.source) &&
      this.document.parts.some((part) => part.game);
    if (state.show === "compare" && hasBoth) {
      const split = Math.round(table * state.divider);
      if (split > 0) this.renderSide(0, split, true);
      if (split < table) this.renderSide(split, table - split, false);
    } else {
      const source =
        state.show === "source" ||
        !this.document?.parts.some((part) => part.game);
      this.renderSide(0, table, source);
    }
    if (table < this.width) {
      const width = this.width - table;
      paint(table, width, state.dark ? "#262c30" : "#d9d5ca");
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
  }

  private renderSide(x: number, width: number, source: boolean): void {
    this.sources.visible = source;
    this.games.visible = !source;
    this.hulls.visible = this.state?.hulls ?? false;
    this.chosenEdges.visible = !source;
    this.renderer.setScissor(x, 0, width, this.height);
    this.renderer.clearDepth();
    this.renderer.render(this.scene, this.camera);
  }

  private readonly fogScene = fogScene();

  private fog(width: number): void {
    const { dark } = this.state!;
    this.fogScene.material.uniforms.high.value.set(
      dark ? "#4d565b" : "#cdd5d8",
    );
    this.fogScene.material.uniforms.low.value.set(dark ? "#363e43" : "#b3bdc2");
    this.renderer.setScissor(0, 0, width, this.height);
    this.renderer.clear();
    this.renderer.render(this.fogScene.scene, this.sheetCamera);
  }

  /** Which part lies under a point of the canvas, in 3D or on the sheet. */
  private pickPart(x: number, y: number): string | null {
    const table = this.tableWidth();
    if (x >= table) return this.partOnSheet(x, y);
    const source = this.sourceAt(x);
    const hit = this.cast(x, y, source);
    return hit?.view.name ?? null;
  }

  private sourceAt(x: number): boolean {
    const { state } = this;
    if (!this.document?.parts.some((part) => part.game)) return true;
    if (state?.show === "compare")
      return (
        x < this.tableWidth() * state.divider &&
        this.document.parts.some((part) => part.source)
      );
    return state?.show === "source";
  }

  private cast(x: number, y: number, source: boolean) {
    this.placeCamera();
    const caster = new Raycaster();
    caster.setFromCamera(
      new Vector2((2 * x) / this.tableWidth() - 1, 1 - (2 * y) / this.height),
      this.camera,
    );
    let best: {
      view: PartView;
      distance: number;
      point: Vector3;
      face: number;
    } | null = null;
    for (const view of this.parts.values()) {
      if (this.state?.hidden.includes(view.name)) continue;
      const mesh = (source ? view.source : view.game).children[0] as
        ThreeMesh | undefined;
      if (!mesh) continue;
      const [hit] = caster.intersectObject(mesh, false);
      if (hit && (!best || hit.distance < best.distance))
        best = {
          view,
          distance: hit.distance,
          point: hit.point,
          face: hit.faceIndex ?? 0,
        };
    }
    return best;
  }

  private partOnSheet(x: number, y: number): string | null {
    const { left, right, top, bottom } = this.sheetCamera;
    const table = this.tableWidth();
    const u = left + ((right - left) * (x - table)) / (this.width - table);
    const v = top + ((bottom - top) * y) / this.height;
    const caster = new Raycaster(new Vector3(u, v, 1), new Vector3(0, 0, -1));
    for (const view of this.parts.values()) {
      const fill = view.sheet.children[0];
      if (fill && caster.intersectObject(fill, false).length) return view.name;
    }
    return null;
  }

  private pickEdge(x: number, y: number): void {
    const hit = this.sourceAt(x) ? null : this.cast(x, y, false);
    const mesh = hit?.view.gameMesh;
    if (!hit || !mesh) {
      this.tell({ kind: "edge", edge: null });
      return;
    }
    let best = "";
    let least = Infinity;
    const p = mesh.positions;
    const at = (v: number) => new Vector3(p[3 * v], p[3 * v + 1], p[3 * v + 2]);
    for (let f = 0; f + 1 < mesh.faceStarts.length; f++)
      for (let c = mesh.faceStarts[f]; c < mesh.faceStarts[f + 1]; c++) {
        const a = mesh.corners[c];
        const b =
          mesh.corners[
            c + 1 < mesh.faceStarts[f + 1] ? c + 1 : mesh.faceStarts[f]
          ];
        const from = at(a);
        const along = at(b).sub(from);
        const t = Math.max(
          0,
          Math.min(
            1,
            hit.point.clone().sub(from).dot(along) / (along.lengthSq() || 1),
          ),
        );
        const d = from.addScaledVector(along, t).distanceToSquared(hit.point);
        if (d < least) {
          least = d;
          best = `${hit.view.name}:${Math.min(a, b)}-${Math.max(a, b)}`;
        }
      }
    this.tell({ kind: "edge", edge: best });
  }
}

function asPicture(map: Texture | null): Texture | null {
  if (!map) return null;
  const picture = map.clone();
  picture.colorSpace = SRGBColorSpace;
  picture.needsUpdate = true;
  return picture;
}

function sizeOf(document: AssetDocument): number {
  const survey = document.results.intake?.report.sizeMetres as
    number[] | undefined;
  return survey?.length ? Math.hypot(...survey) : 0.5;
}

function checkerTexture(): DataTexture {
  const cells = 32;
  const step = 8;
  const data = new Uint8Array(4 * (cells * step) ** 2);
  for (let y = 0; y < cells * step; y++)
    for (let x = 0; x < cells * step; x++) {
      const dark = (Math.floor(x / step) + Math.floor(y / step)) % 2 === 1;
      const line = x % (step * 4) === 0 || y % (step * 4) === 0;
      const to = 4 * (y * cells * step + x);
      const colour = line
        ? [31, 111, 120]
        : dark
          ? [150, 160, 166]
          : [240, 236, 226];
      for (let k = 0; k < 3; k++) data[to + k] = colour[k];
      data[to + 3] = 255;
    }
  const texture = new DataTexture(data, cells * step, cells * step, RGBAFormat);
  texture.colorSpace = SRGBColorSpace;
  texture.wrapS = texture.wrapT = RepeatWrapping;
  texture.repeat.set(2, 2);
  texture.magFilter = NearestFilter;
  texture.minFilter = LinearMipmapLinearFilter;
  texture.generateMipmaps = true;
  texture.anisotropy = 4;
  texture.needsUpdate = true;
  return texture;
}

/** A soft, bright room for metals to mirror. */
function softRoom(renderer: WebGLRenderer): Texture {
  const room = new Scene();
  const material = new ShaderMaterial({
    side: BackSide,
    vertexShader:
      "varying vec3 way; void main() { way = normalize(position); gl_Position = projectionMatrix * modelViewMatrix * vec4(position, 1.0); }",
    fragmentShader:
      "varying vec3 way; void main() { float up = way.y * 0.5 + 0.5; vec3 c = mix(vec3(0.32, 0.3, 0.27), vec3(0.95, 0.97, 1.0), smoothstep(0.25, 0.85, up));" +
      " float lamp = smoothstep(0.82, 0.95, dot(way, normalize(vec3(0.6, 0.7, 0.4)))) * 3.0; float strip = smoothstep(0.9, 0.97, dot(way, normalize(vec3(-0.8, 0.25, 0.5)))) * 1.6;" +
      " gl_FragColor = vec4(c + lamp + strip, 1.0); }",
  });
  room.add(new ThreeMesh(new SphereGeometry(10, 32, 16), material));
  const generator = new PMREMGenerator(renderer);
  const { texture } = generator.fromScene(room, 0.02);
  generator.dispose();
  return texture;
}

function fogScene() {
  const scene = new Scene();
  const material = new ShaderMaterial({
    depthTest: false,
    depthWrite: false,
    uniforms: { high: { value: new Color() }, low: { value: new Color() } },
    vertexShader:
      "varying float up; void main() { up = position.y; gl_Position = vec4(position.xy * 2.0, 0.0, 1.0); }",
    fragmentShader:
      "varying float up; uniform vec3 high; uniform vec3 low; void main() { gl_FragColor = vec4(mix(low, high, up + 0.5), 1.0); \n#include <colorspace_fragment>\n }",
  });
  const plane = new ThreeMesh(new PlaneGeometry(1, 1), material);
  plane.frustumCulled = false;
  scene.add(plane);
  return { scene, material };
}
