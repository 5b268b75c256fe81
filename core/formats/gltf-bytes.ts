import type { Json } from "./json-check";
import { JsonCheck, shown } from "./json-check";
import { MOST_ELEMENTS } from "./limits";

/** Elements of one kind in a buffer. */
export interface Accessor {
  componentType: number;
  type: string;
  count: number;
}

const COMPONENT_BYTES: Record<number, number> = {
  5120: 1,
  5121: 1,
  5122: 2,
  5123: 2,
  5125: 4,
  5126: 4,
};
const COMPONENTS: Record<string, number> = {
  SCALAR: 1,
  VEC2: 2,
  VEC3: 3,
  VEC4: 4,
  MAT2: 4,
  MAT3: 9,
  MAT4: 16,
};
/** Bytes of elements, all accessors together, that a file may stand for whatever it holds: zeros cost it nothing. */
const DECODED_FREE = 64 * 1024 * 1024;
/** Beyond that, how many times as many as it holds: accessors may share bytes. */
const DECODED_TIMES = 4;
/** Beyond that for compressed data: so many times what is compressed. */
const UNPACKED_TIMES = 64;
const MESHOPT = "EXT_meshopt_compression";
const MESHOPT_MODES = ["ATTRIBUTES", "TRIANGLES", "INDICES"] as const;
const MESHOPT_FILTERS = ["NONE", "OCTAHEDRAL", "QUATERNION", "EXPONENTIAL"];

/** A buffer view that is compressed, by EXT_meshopt_compression. */
export interface PackedView {
  view: number;
  buffer: number;
  byteOffset: number;
  byteLength: number;
  count: number;
  byteStride: number;
  mode: (typeof MESHOPT_MODES)[number];
  filter: string;
}

/** Checks what a glTF says of its bytes: buffers, views and accessors, each within what is there. */
export class GltfBytesCheck extends JsonCheck {
  protected readonly views: PackedView[] = [];
  /** Buffers that stand only for what others hold compressed. */
  private readonly standIns = new Set<number>();

  protected buffer(
    buffer: Json,
    i: number,
    held: (buffer: Json, at: number) => number,
  ) {
    const path = `buffers[${i}]`;
    if (buffer.uri !== undefined && typeof buffer.uri !== "string")
      this.fail(`${path}.uri`, "a text is expected");
    const byteLength = this.whole(buffer.byteLength, `${path}.byteLength`, 1);
    if (this.extension(buffer, MESHOPT, path)?.fallback === true) {
      this.standIns.add(i);
      return { byteLength: 1 };
    }
    const there = held(buffer, i);
    if (byteLength > there)
      this.fail(
        `${path}.byteLength`,
        `it promises ${byteLength} bytes, there are ${there}`,
      );
    return { uri: buffer.uri as string | undefined, byteLength };
  }

  protected view(view: Json, i: number, buffers: { byteLength: number }[]) {
    const path = `bufferViews[${i}]`;
    const buffer = this.index(view.buffer, `${path}.buffer`, buffers.length);
    const byteOffset = this.whole(
      view.byteOffset ?? 0,
      `${path}.byteOffset`,
      0,
    );
    const byteLength = this.whole(view.byteLength, `${path}.byteLength`, 1);
    const packed = this.extension(view, MESHOPT, path);
    if (packed)
      return this.packedView(packed, i, byteLength, view.byteStride, buffers);
    if (this.standIns.has(buffer))
      this.fail(path, `buffers[${buffer}] holds only what is compressed`);
    if (byteOffset + byteLength > buffers[buffer].byteLength)
      this.fail(
        path,
        `it reaches to byte ${byteOffset + byteLength}, the buffer has ${buffers[buffer].byteLength}`,
      );
    const byteStride =
      view.byteStride === undefined
        ? undefined
        : this.whole(view.byteStride, `${path}.byteStride`, 1);
    if (byteStride !== undefined && byteStride > 252)
      this.fail(`${path}.byteStride`, `${byteStride} is over 252`);
    return { buffer, byteOffset, byteLength, byteStride };
  }

  /** Compressed bytes and what they are to become (EXT_meshopt_compression, "JSON schema updates"). */
  private packedView(
    packed: Json,
    i: number,
    whole: number,
    stride: unknown,
    buffers: { byteLength: number }[],
  ) {
    const path = `bufferViews[${i}].extensions.${MESHOPT}`;
    const buffer = this.index(packed.buffer, `${path}.buffer`, buffers.length);
    const byteOffset = this.whole(
      packed.byteOffset ?? 0,
      `${path}.byteOffset`,
      0,
    );
    const byteLength = this.whole(packed.byteLength, `${path}.byteLength`, 1);
    if (
      this.standIns.has(buffer) ||
      byteOffset + byteLength > buffers[buffer].byteLength
    )
      this.fail(
        path,
        `it reaches to byte ${byteOffset + byteLength}, the buffer has ${this.standIns.has(buffer) ? "none" : buffers[buffer].byteLength}`,
      );
    const count = this.whole(packed.count, `${path}.count`, 1);
    const byteStride = this.whole(packed.byteStride, `${path}.byteStride`, 1);
    const mode = MESHOPT_MODES.find((each) => each === packed.mode);
    if (!mode)
      this.fail(`${path}.mode`, `${shown(packed.mode)} is none that is known`);
    const filter = packed.filter ?? "NONE";
    if (!MESHOPT_FILTERS.some((each) => each === filter))
      this.fail(`${path}.filter`, `${shown(filter)} is none that is known`);
    if (
      count > MOST_ELEMENTS ||
      (mode === "ATTRIBUTES"
        ? byteStride % 4 || byteStride > 256
        : byteStride !== 2 && byteStride !== 4) ||
      (mode === "TRIANGLES" && count % 3)
    )
      this.fail(path, `${count} elements of ${byteStride} bytes can't be so`);
    if (count * byteStride !== whole)
      this.fail(
        `${path}.count`,
        `${count} elements of ${byteStride} bytes are not the ${whole} of the view`,
      );
    if (whole > Math.max(DECODED_FREE, UNPACKED_TIMES * byteLength))
      this.fail(
        `${path}.count`,
        `${whole} bytes can't come of ${byteLength} compressed ones`,
      );
    this.views.push({
      view: i,
      buffer,
      byteOffset,
      byteLength,
      count,
      byteStride,
      mode,
      filter: filter as string,
    });
    return {
      buffer: 0,
      byteOffset: 0,
      byteLength: whole,
      byteStride:
        stride === undefined
          ? undefined
          : this.whole(stride, `bufferViews[${i}].byteStride`, 1),
    };
  }

  protected accessor(
    accessor: Json,
    i: number,
    views: { byteLength: number; byteStride?: number }[],
  ) {
    const path = `accessors[${i}]`;
    const { componentType, type } = accessor;
    const bytes = COMPONENT_BYTES[componentType as number];
    if (!bytes)
      this.fail(
        `${path}.componentType`,
        `${shown(componentType)} is none that glTF knows`,
      );
    const components = COMPONENTS[String(type)];
    if (!components)
      this.fail(`${path}.type`, `${shown(type)} is none that glTF knows`);
    const count = this.whole(accessor.count, `${path}.count`, 1);
    const size = bytes * components;
    if (count > MOST_ELEMENTS)
      this.fail(
        `${path}.count`,
        `${count} elements; up to ${MOST_ELEMENTS} are read`,
      );
    const view = this.fits(accessor, path, count, size, views);
    return {
      bufferView: view,
      byteOffset: accessor.byteOffset as number | undefined,
      componentType: componentType as number,
      normalized: accessor.normalized === true,
      count,
      type: type as string,
      ...(accessor.sparse === undefined
        ? {}
        : { sparse: this.sparse(accessor.sparse, path, count, size, views) }),
    };
  }

  /** The buffer view that holds `count` elements, where one is named. */
  private fits(
    holder: Json,
    path: string,
    count: number,
    size: number,
    views: { byteLength: number; byteStride?: number }[],
  ): number | undefined {
    const byteOffset = this.whole(
      holder.byteOffset ?? 0,
      `${path}.byteOffset`,
      0,
    );
    if (holder.bufferView === undefined) return undefined;
    const at = this.index(
      holder.bufferView,
      `${path}.bufferView`,
      views.length,
    );
    const { byteLength, byteStride } = views[at];
    const needed = byteOffset + (byteStride ?? size) * (count - 1) + size;
    if (needed > byteLength)
      this.fail(
        `${path}.count`,
        `${count} elements need ${needed} bytes, bufferViews[${at}] has ${byteLength}`,
      );
    return at;
  }

  private sparse(
    value: unknown,
    parent: string,
    most: number,
    size: number,
    views: { byteLength: number; byteStride?: number }[],
  ) {
    const path = `${parent}.sparse`;
    const sparse = this.object(value, path);
    const count = this.whole(sparse.count, `${path}.count`, 1);
    if (count > most)
      this.fail(
        `${path}.count`,
        `${count} of ${most} elements can't be replaced`,
      );
    const indices = this.object(sparse.indices, `${path}.indices`);
    const bytes = [5121, 5123, 5125].includes(indices.componentType as number)
      ? COMPONENT_BYTES[indices.componentType as number]
      : this.fail(`${path}.indices.componentType`, "5121, 5123 or 5125");
    const values = this.object(sparse.values, `${path}.values`);
    const place = (holder: Json, name: string, width: number) => {
      const view = this.fits(holder, `${path}.${name}`, count, width, views);
      if (view === undefined) this.fail(`${path}.${name}`, "it has no data");
      return { bufferView: view, byteOffset: holder.byteOffset };
    };
    return {
      count,
      indices: {
        ...place(indices, "indices", bytes),
        componentType: indices.componentType,
      },
      values: place(values, "values", size),
    };
  }

  /** What is read into memory must be in some proportion to what the file holds. */
  protected decoded(
    accessors: Accessor[],
    buffers: { byteLength: number }[],
    packed: boolean,
  ) {
    const held = buffers.reduce((sum, { byteLength }) => sum + byteLength, 0);
    const times = packed ? UNPACKED_TIMES : DECODED_TIMES;
    const most = Math.max(DECODED_FREE, times * held);
    let sum = 0;
    accessors.forEach((accessor, i) => {
      sum += bytesOf(accessor);
      if (sum > most)
        this.fail(
          `accessors[${i}].count`,
          `with it ${sum} bytes are to be made of the ${held} that the file holds`,
        );
    });
  }
}

const bytesOf = (accessor: Accessor) =>
  accessor.count *
  COMPONENT_BYTES[accessor.componentType] *
  COMPONENTS[accessor.type];
