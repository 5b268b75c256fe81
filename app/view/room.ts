import {
  BackSide,
  Color,
  DataTexture,
  LinearMipmapLinearFilter,
  Mesh as ThreeMesh,
  NearestFilter,
  PlaneGeometry,
  PMREMGenerator,
  RepeatWrapping,
  RGBAFormat,
  Scene,
  ShaderMaterial,
  SphereGeometry,
  SRGBColorSpace,
} from "three";
import type { Texture, WebGLRenderer } from "three";
import { strokesOf, widthOf } from "../../core/unwrap/methods/template/glyphs";

/** A texture as a picture to be looked at: its numbers are shown as they are. */
export function asPicture(map: Texture | null): Texture | null {
  if (!map) return null;
  const picture = map.clone();
  picture.colorSpace = SRGBColorSpace;
  picture.needsUpdate = true;
  return picture;
}

/** Fields along the edge of the checker, and px of one. */
const FIELDS = 16;
const FIELD = 64;
const MARK = 44;

/**
 * A checker to judge UVs by: fields named by column and row as on a map, the names upright and never mirrored, a
 * tick at the upper left of each, so that turned, flipped and stretched islands show.
 * @param width px of the sheet: how many texels a field has is written in every fourth one
 */
export function checkerTexture(width: number, height: number): DataTexture {
  const rows = Math.max(1, Math.round((FIELDS * height) / width));
  const [wide, high] = [FIELDS * FIELD, rows * FIELD];
  const data = new Uint8Array(4 * wide * high);
  const pixels = new Uint32Array(data.buffer);
  const word = ([r, g, b]: readonly number[]) =>
    ((255 << 24) | (b << 16) | (g << 8) | r) >>> 0;
  const put = (x: number, y: number, colour: number) => {
    if (x >= 0 && y >= 0 && x < wide && y < high) pixels[y * wide + x] = colour;
  };
  const line = (at: readonly number[], thick: number, colour: number) => {
    const [x0, y0, x1, y1] = at;
    const steps = Math.ceil(2 * Math.hypot(x1 - x0, y1 - y0)) + 1;
    for (let i = 0; i <= steps; i++)
      for (let dx = 0; dx < thick; dx++)
        for (let dy = 0; dy < thick; dy++)
          put(
            Math.round(x0 + ((x1 - x0) * i) / steps) + dx,
            Math.round(y0 + ((y1 - y0) * i) / steps) + dy,
            colour,
          );
  };
  for (let row = 0; row < rows; row++)
    for (let column = 0; column < FIELDS; column++) {
      const dark = (row + column) % 2 === 1;
      // Columns go from cool to warm, so that it shows where on the sheet one is.
      const t = column / (FIELDS - 1);
      const ground = dark
        ? [138 + 40 * t, 156, 168 - 36 * t]
        : [232 + 10 * t, 234, 236 - 22 * t];
      const ink = word(dark ? [250, 249, 245] : [74, 82, 88]);
      const [x, y] = [column * FIELD, row * FIELD];
      for (let j = 0; j < FIELD; j++) {
        const from = (y + j) * wide + x;
        pixels.fill(word(ground), from, from + FIELD);
      }
      const name = `${String.fromCharCode(65 + column)}${row + 1}`;
      const size = MARK / 2;
      const left = x + (FIELD - widthOf(name, size)) / 2;
      for (const stroke of strokesOf(name, left, y + (FIELD - size) / 2, size))
        line(stroke, 3, ink);
      line([x + 5, y + FIELD - 8, x + 14, y + FIELD - 8], 2, ink);
      line([x + 5, y + FIELD - 8, x + 5, y + FIELD - 17], 2, ink);
      if (row % 4 === 0 && column % 4 === 0)
        for (const stroke of strokesOf(
          String(Math.round(width / FIELDS)),
          x + 22,
          y + 5,
          9,
        ))
          line(stroke, 1, ink);
    }
  const texture = new DataTexture(data, wide, high, RGBAFormat);
  texture.colorSpace = SRGBColorSpace;
  texture.wrapS = texture.wrapT = RepeatWrapping;
  texture.magFilter = NearestFilter;
  texture.minFilter = LinearMipmapLinearFilter;
  texture.generateMipmaps = true;
  texture.anisotropy = 4;
  texture.needsUpdate = true;
  return texture;
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
  const generator = new PMREMGenerator(renderer);
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
