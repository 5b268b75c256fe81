/** Bytes of streams that were loaded before, the ones used last, up to a size: who clicks to and fro reads once. */
export class StreamCache {
  private readonly kept = new Map<string, Uint8Array>();
  private size = 0;

  /** @param limit bytes; what one revision needs is kept whatever that is */
  constructor(private readonly limit: number) {}

  get(hash: string): Uint8Array | undefined {
    const bytes = this.kept.get(hash);
    if (bytes) {
      // A map keeps the order of insertion: what is used goes to its end.
      this.kept.delete(hash);
      this.kept.set(hash, bytes);
    }
    return bytes;
  }

  set(hash: string, bytes: Uint8Array): void {
    this.kept.set(hash, bytes);
    this.size += bytes.byteLength;
  }

  /** Forgets what was used longest ago, until the size is kept. @param wanted what must stay */
  trim(wanted: ReadonlySet<string>): void {
    for (const [hash, bytes] of this.kept) {
      if (this.size <= this.limit) return;
      if (wanted.has(hash)) continue;
      this.kept.delete(hash);
      this.size -= bytes.byteLength;
    }
  }
}
