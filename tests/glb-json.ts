/** The JSON of a GLB. */
export function glbJson<T>(bytes: Uint8Array): T {
  const view = new DataView(bytes.buffer, bytes.byteOffset);
  return JSON.parse(
    new TextDecoder().decode(bytes.subarray(20, 20 + view.getUint32(12, true))),
  ) as T;
}
