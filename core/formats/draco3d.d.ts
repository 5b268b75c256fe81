declare module "draco3d" {
  interface Pointer {
    ptr: number;
  }
  interface Status {
    ok(): boolean;
  }
  interface Mesh extends Pointer {
    num_points(): number;
    num_faces(): number;
  }
  interface Attribute extends Pointer {
    num_components(): number;
  }
  export interface Decoder {
    DecodeArrayToMesh(bytes: Uint8Array, length: number, into: Mesh): Status;
    GetAttributeByUniqueId(mesh: Mesh, id: number): Attribute;
    GetTrianglesUInt32Array(
      mesh: Mesh,
      bytes: number,
      pointer: number,
    ): boolean;
    GetAttributeDataArrayForAllPoints(
      mesh: Mesh,
      attribute: Attribute,
      type: number,
      bytes: number,
      pointer: number,
    ): boolean;
  }
  interface Memory {
    HEAPU32: Uint32Array;
    HEAPF32: Float32Array;
    _malloc(bytes: number): number;
    _free(pointer: number): void;
    destroy(object: object): void;
  }
  export interface DecoderModule extends Memory {
    Decoder: new () => Decoder;
    Mesh: new () => Mesh;
    DT_FLOAT32: number;
  }
  interface Encoder {
    SetAttributeQuantization(attribute: number, bits: number): void;
    EncodeMeshToDracoBuffer(mesh: Mesh, into: Encoded): number;
  }
  interface Encoded {
    GetValue(at: number): number;
  }
  interface MeshBuilder {
    AddFacesToMesh(mesh: Mesh, faces: number, indices: Uint32Array): void;
    AddFloatAttributeToMesh(
      mesh: Mesh,
      attribute: number,
      points: number,
      width: number,
      values: Float32Array,
    ): number;
  }
  export interface EncoderModule extends Memory {
    Encoder: new () => Encoder;
    Mesh: new () => Mesh;
    MeshBuilder: new () => MeshBuilder;
    DracoInt8Array: new () => Encoded;
    POSITION: number;
    NORMAL: number;
    TEX_COORD: number;
  }
  export function createDecoderModule(options: object): Promise<DecoderModule>;
  export function createEncoderModule(options: object): Promise<EncoderModule>;
}
