import { PMREMGenerator } from "three";

/**
 * Prefilters a room into light, on faces of 64 pixels. three's own faces are never under 256, which is seconds of work
 * before anything is shown where there is no graphics card; what is soft looks the same from these.
 */
export class RoomLight extends PMREMGenerator {
  /** Texels along the edge of a face. Named by the class above, which reads it. */
  declare _cubeSize: number;

  /** Called by the class above with the size it would take. */
  _setSize(): void {
    this._cubeSize = 64;
  }
}
