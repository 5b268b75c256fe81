import {
  DataTexture,
  LinearMipmapLinearFilter,
  NearestFilter,
  RepeatWrapping,
  RGBAFormat,
  SRGBColorSpace,
} from "three";
import type { Material } from "three";
import { checkerPixels } from "./checker-pixels";

/** What the checker is multiplied by where the UVs run the wrong way round. */
const MIRRORED = [1, 0.62, 0.66];

/** The checker for sheets of a size in px. */
export function checkerTexture(width: number, height: number): DataTexture {
  const drawn = checkerPixels(width, height);
  const texture = new DataTexture(
    drawn.data,
    drawn.width,
    drawn.height,
    RGBAFormat,
  );
  texture.colorSpace = SRGBColorSpace;
  texture.wrapS = texture.wrapT = RepeatWrapping;
  texture.magFilter = NearestFilter;
  texture.minFilter = LinearMipmapLinearFilter;
  texture.generateMipmaps = true;
  texture.anisotropy = 4;
  texture.needsUpdate = true;
  return texture;
}

/** Lets a material tint its map where UVs are mirrored: on while its define MIRRORED is set. */
export function tintMirrored(material: Material): void {
  material.onBeforeCompile = (shader) => {
    shader.fragmentShader = shader.fragmentShader.replace(
      "#include <map_fragment>",
      `#include <map_fragment>
#if defined( MIRRORED ) && defined( USE_MAP )
  vec2 across = dFdx( vMapUv );
  vec2 along = dFdy( vMapUv );
  float turn = across.x * along.y - across.y * along.x;
  if ( ( gl_FrontFacing ? turn : - turn ) < 0.0 ) diffuseColor.rgb *= vec3( ${MIRRORED.map((x) => x.toFixed(2)).join(", ")} );
#endif`,
    );
  };
}
