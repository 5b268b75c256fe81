import {
  BackSide,
  CanvasTexture,
  CircleGeometry,
  Color,
  DirectionalLight,
  Group,
  HemisphereLight,
  Mesh as ThreeMesh,
  MeshStandardMaterial,
  PointLight,
  RepeatWrapping,
  Scene,
  ShaderMaterial,
  SphereGeometry,
  SRGBColorSpace,
} from "three";
import type { Texture, WebGLRenderer } from "three";
import { RoomLight } from "../view/room-light";
import { seededRandom } from "../../core/base/random";
import type { YardState } from "./messages";

/** How one light of the yard looks. */
interface Sky {
  high: string;
  low: string;
  ground: string;
  /** Where the sun stands, how strong it is and its colour. */
  sun: [number, number, number];
  strength: number;
  colour: string;
  /** Strength of the light from all round. */
  ambient: number;
}

const SKIES: Record<YardState["light"], Sky> = {
  day: {
    ...{ high: "#8fb4cf", low: "#dfe6e6", ground: "#b5aea1" },
    ...{ sun: [0.5, 0.9, 0.55], strength: 2.6, colour: "#fff4e0" },
    ambient: 0.9,
  },
  dusk: {
    ...{ high: "#33425e", low: "#d98f5c", ground: "#4c4742" },
    ...{ sun: [-0.9, 0.22, 0.35], strength: 1.5, colour: "#ffb070" },
    ambient: 0.75,
  },
  lamps: {
    ...{ high: "#30353a", low: "#585f64", ground: "#3c3d3d" },
    ...{ sun: [0.6, 0.7, 0.7], strength: 2.8, colour: "#fff1d8" },
    ambient: 0.25,
  },
};
/** Lights besides the sun, where three lamps stand round: direction, strength, colour. */
const LAMPS: [[number, number, number], number, string][] = [
  [[-0.9, 0.35, 0.4], 0.9, "#bcd6ff"],
  [[0.1, 0.5, -1], 1.8, "#ffe0c0"],
];

/** Paving of the quay, made by code: stones of many greys in a bond, 4 m wide. */
function paving(): Texture {
  const size = 512;
  const canvas = new OffscreenCanvas(size, size);
  const draw = canvas.getContext("2d")!;
  const random = seededRandom(11);
  draw.fillStyle = "#8d877c";
  draw.fillRect(0, 0, size, size);
  const [wide, high] = [size / 8, size / 16];
  for (let row = 0; row < 16; row++)
    for (let column = -1; column < 8; column++) {
      const shade = 150 + Math.round(34 * random());
      const warm = Math.round(7 * random());
      draw.fillStyle = `rgb(${shade + warm}, ${shade}, ${shade - 5 - warm})`;
      const x = column * wide + (row % 2 ? wide / 2 : 0);
      draw.fillRect(x + 1.5, row * high + 1.5, wide - 3, high - 3);
    }
  // Grain.
  for (let i = 0; i < 9000; i++) {
    draw.fillStyle =
      random() < 0.5 ? "rgba(0,0,0,0.05)" : "rgba(255,255,255,0.05)";
    draw.fillRect(size * random(), size * random(), 2, 2);
  }
  const texture = new CanvasTexture(canvas);
  texture.colorSpace = SRGBColorSpace;
  texture.wrapS = texture.wrapT = RepeatWrapping;
  texture.repeat.set(60, 60);
  texture.anisotropy = 8;
  return texture;
}

/** The yard itself: ground, sky and lights. */
export class Surroundings {
  readonly group = new Group();
  private readonly sky: ShaderMaterial;
  private readonly ground: MeshStandardMaterial;
  private readonly floor: ThreeMesh;
  private readonly sun = new DirectionalLight();
  private readonly lamps = LAMPS.map(() => new DirectionalLight());
  private readonly lantern = new PointLight("#ffb060", 0, 40);
  private readonly ambient = new Map<string, Texture>();
  private readonly generator: RoomLight;

  constructor(
    renderer: WebGLRenderer,
    private readonly scene: Scene,
  ) {
    this.generator = new RoomLight(renderer);
    this.sky = new ShaderMaterial({
      side: BackSide,
      depthWrite: false,
      uniforms: {
        high: { value: new Color() },
        low: { value: new Color() },
        ground: { value: new Color() },
      },
      vertexShader:
        "varying vec3 way; void main() { way = normalize(position); gl_Position = projectionMatrix * modelViewMatrix * vec4(position, 1.0); }",
      fragmentShader:
        "varying vec3 way; uniform vec3 high; uniform vec3 low; uniform vec3 ground; void main() { float up = normalize(way).y; vec3 c = up > 0.0 ? mix(low, high, pow(up, 0.55)) : mix(low, ground, min(1.0, -up * 6.0)); gl_FragColor = vec4(c, 1.0);\n#include <colorspace_fragment>\n }",
    });
    const dome = new ThreeMesh(new SphereGeometry(500, 32, 16), this.sky);
    dome.frustumCulled = false;
    this.ground = new MeshStandardMaterial({ roughness: 0.95, map: paving() });
    this.floor = new ThreeMesh(new CircleGeometry(120, 64), this.ground);
    this.floor.rotation.x = -Math.PI / 2;
    this.floor.receiveShadow = true;
    this.floor.frustumCulled = false;
    this.sun.castShadow = true;
    this.sun.shadow.mapSize.set(2048, 2048);
    this.sun.shadow.bias = -0.0004;
    this.sun.shadow.normalBias = 0.01;
    this.group.add(
      dome,
      this.floor,
      this.sun,
      this.sun.target,
      this.lantern,
      ...this.lamps,
      new HemisphereLight("#ffffff", "#b0a898", 0.15),
    );
    scene.add(this.group);
  }

  /** @param size of what stands there, metres @param reach how far its copies go */
  light(light: YardState["light"], size: number, reach: number): void {
    const { high, low, ground, sun, strength, colour, ambient } = SKIES[light];
    const { uniforms } = this.sky;
    (uniforms.high.value as Color).set(high);
    (uniforms.low.value as Color).set(low);
    (uniforms.ground.value as Color).set(ground);
    this.scene.environment = this.ambientOf(light);
    this.scene.environmentIntensity = ambient;
    const far = Math.max(4 * size, Math.min(reach, 14 * size));
    this.sun.color.set(colour);
    this.sun.intensity = strength;
    this.sun.position.set(...sun).multiplyScalar(3 * far);
    const { camera } = this.sun.shadow;
    camera.left = camera.bottom = -far;
    camera.right = camera.top = far;
    camera.near = far * 0.5;
    camera.far = far * 7;
    camera.updateProjectionMatrix();
    this.lamps.forEach((lamp, i) => {
      const [way, bright, shade] = LAMPS[i];
      lamp.position.set(...way);
      lamp.color.set(shade);
      lamp.intensity = light === "lamps" ? bright : 0;
    });
    this.lantern.position.set(1.5 * size, 1.6 * size, 1.2 * size);
    this.lantern.intensity = light === "dusk" ? 6 * size * size : 0;
    this.lantern.distance = 12 * size;
  }

  /** Hides the floor, as for a slope that takes its place. */
  floorShown(shown: boolean): void {
    this.floor.visible = shown;
  }

  /** The sky as light from all round, made once for each. */
  private ambientOf(light: YardState["light"]): Texture {
    let made = this.ambient.get(light);
    if (!made) {
      const only = new Scene();
      only.add(new ThreeMesh(new SphereGeometry(10, 32, 16), this.sky));
      const { sun, colour, strength } = SKIES[light];
      const disc = new ThreeMesh(
        new SphereGeometry(1.1, 16, 8),
        new MeshStandardMaterial({
          color: "#000000",
          emissive: new Color(colour),
          emissiveIntensity: 6 * strength,
        }),
      );
      disc.position
        .set(...sun)
        .normalize()
        .multiplyScalar(8);
      only.add(disc);
      made = this.generator.fromScene(only, 0.02).texture;
      this.ambient.set(light, made);
    }
    return made;
  }
}
