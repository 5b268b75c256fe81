import type { Channel } from "./channels";

/** A band of rows of one sheet, from its bottom. */
export interface RowSlice {
  /** Where the sheet lies in UV: whole sheets to the right and up. */
  right: number;
  up: number;
  from: number;
  to: number;
  /** texelCount of the band: 1 where rays are wanted, the rest is only covered; null for all. */
  wanted: Uint8Array | null;
}

export interface RowResult {
  /** Width × texelCount of the band of each channel, see core/bake/methods/channels.ts; 0 where nothing lies. */
  values: Partial<Record<Channel, Float32Array>>;
  /** texelCount: samples that landed on an island. */
  covered: Uint8Array;
  /**
   * By canvas, `COUNTS` of each: samples; those whose ray met nothing, but did not go through a card; those of them
   * that only hang over an open border or a sharp rim of the source; those that met it beyond the part's own
   * distance; those whose ray began inside something; those whose ray along the smoothed direction met nothing, but
   * one straight off the surface did.
   */
  counts: Uint32Array;
  /** By canvas: how far off the source lies at most where rays met nothing and it does not end, metres. */
  farthest: Float32Array;
  rays: number;
}
