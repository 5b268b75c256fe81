/** An island turned and moved so that its box starts at the origin. */
export interface Turned {
  triangles: Float64Array;
  angle: number;
  /** Where the box's lower left corner lay before it was moved to the origin. */
  left: number;
  bottom: number;
  width: number;
  height: number;
  area: number;
}

/** Where an island lies: its middle in px, its turn in radians. */
export interface Pose {
  x: number;
  y: number;
  angle: number;
}

export interface SheetBounds {
  /** px */
  width: number;
  height: number;
  /** Free px between islands. */
  padding: number;
  /** Free px along the border of the sheet. */
  margin: number;
}

/** An outline to be placed: triangles in metres, 6 numbers each. */
export interface PackItem {
  triangles: Float64Array;
}

export interface Placement {
  /** Turn in radians, then shift in pixels from the lower left of the sheet. */
  angle: number;
  x: number;
  y: number;
}

export interface PackResult {
  placements: Placement[];
  /** Pixels per metre that all islands got. */
  texelsPerMetre: number;
  /** Rounds of the search, to be given again for the same bytes. */
  rounds: number;
}

export type Rotation = "any" | "right angles" | "none";

export interface PackSettings {
  /** px */
  width: number;
  height: number;
  /** Free pixels between islands; half of it is kept at the border. */
  padding: number;
  /** Free pixels along the border of the sheet, or half the padding where left out. */
  margin?: number;
  /** Pixels per metre, or 0 for as many as fit. */
  texelsPerMetre: number;
  /** How islands may be turned. */
  rotation?: Rotation;
  /** Rounds of the search for a larger scale. */
  rounds?: number;
  /** Time for the search; 0 leaves it to the rounds. */
  seconds?: number;
  /** What lies on the sheet already and does not move: triangles in pixels, 6 numbers each. */
  blocked?: Float64Array | null;
}
