import type { MeshDocument, StreamRef } from "../../core/asset/document";
import { decodeStream } from "../../core/asset/read-document";
import type { Mesh } from "../../core/mesh/mesh";

/** Streams by hash, fetched once; the browser's cache keeps them beyond the page. */
export class StreamLoader {
  private readonly loads = new Map<string, Promise<Uint8Array>>();

  /** The bytes of a stream, asked for once. @throws Error where the server has none */
  bytes(hash: string): Promise<Uint8Array> {
    let load = this.loads.get(hash);
    if (!load) {
      load = fetch(`/api/streams/${hash}`).then(async (response) => {
        if (!response.ok)
          throw new Error(`stream ${hash.slice(0, 8)} could not be loaded`);
        return new Uint8Array(await response.arrayBuffer());
      });
      this.loads.set(hash, load);
    }
    return load;
  }

  async load<T>(ref: StreamRef | null): Promise<T | null> {
    return ref && (decodeStream(ref, await this.bytes(ref.hash)) as T);
  }

  /** Forgets what is no longer shown. */
  keepOnly(hashes: ReadonlySet<string>): void {
    for (const hash of this.loads.keys())
      if (!hashes.has(hash)) this.loads.delete(hash);
  }

  async mesh(document: MeshDocument): Promise<Mesh> {
    const names = Object.keys(
      document.streams,
    ) as (keyof MeshDocument["streams"])[];
    const loaded = await Promise.all(
      names.map((name) => this.load(document.streams[name])),
    );
    return {
      ...Object.fromEntries(names.map((name, i) => [name, loaded[i]])),
      materials: document.materials,
    } as unknown as Mesh;
  }
}
