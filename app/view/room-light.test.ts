import { Scene, WebGLCubeRenderTarget } from "three";
import type { WebGLRenderer } from "three";
import { expect, it } from "vitest";
import { RoomLight } from "./room-light";

/** What is drawn on: nothing, but it notes how large. */
function noRenderer(drawn: number[]): WebGLRenderer {
  return {
    coordinateSystem: 2000,
    xr: {},
    toneMapping: 0,
    getClearColor: (colour: object) => colour,
    getRenderTarget: () => null,
    getActiveCubeFace: () => 0,
    getActiveMipmapLevel: () => 0,
    state: { buffers: { depth: { getReversed: () => false } } },
    setRenderTarget: (target: WebGLCubeRenderTarget | null) => {
      if (target) drawn.push(target.width);
    },
    clear() {},
    render() {},
  } as unknown as WebGLRenderer;
}

it("a room is prefiltered on small faces, each level of roughness among them", () => {
  const drawn: number[] = [];
  const made = new RoomLight(noRenderer(drawn)).fromScene(new Scene(), 0.02);
  expect(new Set(drawn)).toEqual(new Set([64]));
  expect(made.width).toBe(64);
  expect(made.texture.mipmaps.length).toBe(4);
});
