export interface BlockQuestion {
  number: number;
  bytes: Uint8Array;
}

export interface BlockAnswer {
  number: number;
  /** Pixels 4 × width × height, rows from the top. */
  picture?: { width: number; height: number; pixels: Uint8Array };
  failed?: string;
}
