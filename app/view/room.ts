import {
  BackSide,
  Color,
  Mesh as ThreeMesh,
  PlaneGeometry,
  Scene,
  ShaderMaterial,
  SphereGeometry,
  SRGBColorSpace,
} from "three";
import type { Texture, WebGLRenderer } from "three";
import { RoomLight } from "./room-light";

/** A texture as a picture to be looked at: its numbers are shown as they are. */
export function asPicture(map: Texture | null): Texture | null {
  if (!map) return null;
  const picture = map.clone();
  picture.colorSpace = SRGBColorSpace;
  picture.needsUpdate = true;
  return picture;
}

/** A soft, bright room for metals to mirror. */
export function softRoom(renderer: WebGLRenderer): Texture {
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
  const generator = new RoomLight(renderer);
  const { texture } = generator.fromScene(room, 0.02);
  generator.dispose();
  return texture;
}

export function fogScene() {
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
