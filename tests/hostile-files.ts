/** Small files whose counts, lengths and indices promise far more than they hold: one for each clause that names one. */
export interface HostileFile {
  name: string;
  bytes: Uint8Array;
  /** What the refusal has to say. */
  says: RegExp;
}

type Json = Record<string, unknown>;

const encode = (text: string) => new TextEncoder().encode(text);

/** A GLB of a JSON and some bytes of data. */
export function glb(json: object, data = new Uint8Array(64)): Uint8Array {
  const text = encode(JSON.stringify(json));
  const padded = Math.ceil(text.length / 4) * 4;
  const bytes = new Uint8Array(12 + 8 + padded + 8 + data.length).fill(32);
  const view = new DataView(bytes.buffer);
  [0x46546c67, 2, bytes.length, padded, 0x4e4f534a].forEach((word, i) =>
    view.setUint32(4 * i, word, true),
  );
  bytes.set(text, 20);
  view.setUint32(20 + padded, data.length, true);
  view.setUint32(24 + padded, 0x004e4942, true);
  bytes.set(data, 28 + padded);
  return bytes;
}

/** A sound GLB of one triangle, as JSON to be spoilt. */
export const soundGltf = (): Json & {
  accessors: Json[];
  bufferViews: Json[];
  buffers: Json[];
  nodes: Json[];
  meshes: { primitives: Json[] }[];
} => ({
  asset: { version: "2.0" },
  scene: 0,
  scenes: [{ nodes: [0] }],
  nodes: [{ mesh: 0, name: "a" }],
  meshes: [{ primitives: [{ attributes: { POSITION: 0 }, indices: 1 }] }],
  accessors: [
    { bufferView: 0, componentType: 5126, count: 3, type: "VEC3" },
    { bufferView: 1, componentType: 5123, count: 3, type: "SCALAR" },
  ],
  bufferViews: [
    { buffer: 0, byteOffset: 0, byteLength: 36 },
    { buffer: 0, byteOffset: 36, byteLength: 6 },
  ],
  buffers: [{ byteLength: 64 }],
});

type Sound = ReturnType<typeof soundGltf>;

/** Data of one triangle for `soundGltf`, then zeros. */
export function triangleData(length = 64): Uint8Array<ArrayBuffer> {
  const data = new Uint8Array(length);
  const view = new DataView(data.buffer);
  [0, 0, 0, 1, 0, 0, 0, 1, 0].forEach((x, i) =>
    view.setFloat32(4 * i, x, true),
  );
  [0, 1, 2].forEach((v, i) => view.setUint16(36 + 2 * i, v, true));
  return data;
}

const spoilt = (
  name: string,
  says: RegExp,
  spoil: (json: Sound) => void,
  data = triangleData(),
): HostileFile => {
  const json = soundGltf();
  spoil(json);
  return { name: `${name}.glb`, bytes: glb(json, data), says };
};

/**
 * Files of glTF that lie.
 * In one piece: a list of files.
 */
function gltfFiles(): HostileFile[] {
  const many = <T>(count: number, make: (i: number) => T) =>
    Array.from({ length: count }, (_, i) => make(i));
  return [
    spoilt("count-without-data", /accessors\[0\]\.count/, ({ accessors }) => {
      accessors[0].count = 1e9;
      delete accessors[0].bufferView;
    }),
    spoilt("count-of-zeros", /accessors\[0\]\.count/, ({ accessors }) => {
      accessors[0].count = 5e7;
      delete accessors[0].bufferView;
    }),
    spoilt("count-beyond-view", /accessors\[1\]\.count/, ({ accessors }) => {
      accessors[1].count = 3e7;
    }),
    spoilt("count-no-number", /accessors\[0\]\.count/, ({ accessors }) => {
      accessors[0].count = 2.5;
    }),
    spoilt("offset-beyond-view", /accessors\[0\]\.count/, ({ accessors }) => {
      accessors[0].byteOffset = 4e9;
    }),
    spoilt("view-length", /bufferViews\[0\]/, ({ bufferViews }) => {
      bufferViews[0].byteLength = 4e9;
    }),
    spoilt("view-offset", /bufferViews\[1\]/, ({ bufferViews }) => {
      bufferViews[1].byteOffset = 4e9;
    }),
    spoilt("stride", /bufferViews\[0\]\.byteStride/, ({ bufferViews }) => {
      bufferViews[0].byteStride = 4e9;
    }),
    spoilt("buffer-length", /buffers\[0\]\.byteLength/, ({ buffers }) => {
      buffers[0].byteLength = 4e9;
    }),
    spoilt("sparse-count", /accessors\[0\]\.sparse\.count/, (json) => {
      json.accessors[0].sparse = {
        count: 1e9,
        indices: { bufferView: 1, componentType: 5123 },
        values: { bufferView: 0 },
      };
    }),
    spoilt("sparse-data", /accessors\[0\]\.sparse\.values/, (json) => {
      json.accessors[0].count = 60_000;
      delete json.accessors[0].bufferView;
      json.accessors[0].sparse = {
        count: 3,
        indices: { bufferView: 1, componentType: 5123 },
        values: { bufferView: 1 },
      };
    }),
    spoilt("collider-shape", /collider\.geometry\.shape/, ({ nodes }) => {
      nodes[0].extensions = {
        KHR_physics_rigid_bodies: { collider: { geometry: { shape: 4e9 } } },
      };
    }),
    spoilt("collider-mesh", /collider\.geometry\.mesh/, ({ nodes }) => {
      nodes[0].extensions = {
        KHR_physics_rigid_bodies: { collider: { geometry: { mesh: 7 } } },
      };
    }),
    spoilt("shape-length", /shapes\[0\]\.radius/, (json) => {
      json.extensions = {
        KHR_implicit_shapes: {
          shapes: [{ type: "sphere", sphere: { radius: -1 } }],
        },
      };
    }),
    spoilt("instances-kind", /attributes\.ROTATION/, ({ nodes }) => {
      nodes[0].extensions = {
        EXT_mesh_gpu_instancing: { attributes: { ROTATION: 0 } },
      };
    }),
    spoilt("instances-counts", /attributes\.SCALE/, ({ nodes, accessors }) => {
      accessors.push({ ...accessors[0], count: 2 });
      nodes[0].extensions = {
        EXT_mesh_gpu_instancing: { attributes: { TRANSLATION: 0, SCALE: 2 } },
      };
    }),
    spoilt("nodes", /200000 parts/, (json) => {
      json.nodes = many(200_000, () => ({ mesh: 0 }));
      json.scenes = [{ nodes: many(200_000, (i) => i) }];
    }),
    spoilt("deep", /nested more than/, (json) => {
      json.nodes = many(100_000, (i) =>
        i < 99_999 ? { children: [i + 1] } : { mesh: 0 },
      );
    }),
    spoilt("ring", /nodes/, (json) => {
      json.nodes = [{ children: [1] }, { children: [2] }, { children: [1] }];
    }),
    spoilt("doubling", /has a parent already/, (json) => {
      json.nodes = many(60, (i) =>
        i < 59 ? { children: [i + 1, i + 1] } : { mesh: 0 },
      );
    }),
    spoilt(
      "placed-often",
      /nodes: they place/,
      (json) => {
        json.nodes = many(9000, () => ({ mesh: 0 }));
        json.scenes = [{ nodes: many(9000, (i) => i) }];
        json.accessors[0].count = 100_000;
        json.bufferViews[0].byteLength = 1_200_000;
        json.buffers[0].byteLength = 1_200_000;
      },
      triangleData(1_200_000),
    ),
    spoilt(
      "primitives",
      /nodes: they place/,
      (json) => {
        json.meshes[0].primitives = many(100_000, () => ({
          attributes: { POSITION: 0 },
        }));
        json.accessors[0].count = 100_000;
        json.bufferViews[0].byteLength = 1_200_000;
        json.buffers[0].byteLength = 1_200_000;
      },
      triangleData(1_200_000),
    ),
    spoilt(
      "same-bytes",
      /bytes are to be made/,
      (json) => {
        json.accessors = many(4000, () => ({
          bufferView: 0,
          componentType: 5126,
          count: 30_000,
          type: "VEC3",
        }));
        json.meshes[0].primitives = many(50, (i) => ({
          attributes: { POSITION: 2 * i, NORMAL: 2 * i + 1 },
        }));
        json.meshes[0].primitives.push(
          ...many(300, (i) => ({
            attributes: { POSITION: 0, NORMAL: 200 + i },
          })),
        );
        json.bufferViews[0].byteLength = 360_000;
        json.buffers[0].byteLength = 360_000;
      },
      triangleData(360_000),
    ),
    {
      name: "data-uri.gltf",
      bytes: encode(
        JSON.stringify({
          ...soundGltf(),
          buffers: [
            {
              byteLength: 4e9,
              uri: "data:application/octet-stream;base64,AAAA",
            },
          ],
        }),
      ),
      says: /buffers\[0\]\.byteLength: it promises 4000000000 bytes, there are 3/,
    },
    chunk("chunk-length", 12, /chunk at byte 12/),
    chunk("container-length", 8, /container promises/),
  ];
}

/** A sound GLB with one of its own lengths made huge. */
function chunk(name: string, at: number, says: RegExp): HostileFile {
  const bytes = glb(soundGltf(), triangleData());
  new DataView(bytes.buffer).setUint32(at, 0xfffffff0, true);
  return { name: `${name}.glb`, bytes, says };
}

function plyFiles(): HostileFile[] {
  const header = (
    format: string,
    vertices: string,
    faces: string,
    list = "list uchar int",
  ) =>
    `ply\nformat ${format} 1.0\nelement vertex ${vertices}\nproperty float x\nproperty float y\nproperty float z\n` +
    `element face ${faces}\nproperty ${list} vertex_indices\nend_header\n`;
  const binary = "binary_little_endian";
  const listed = (text: string, count: number) => {
    const head = encode(text);
    const bytes = new Uint8Array(head.length + 36 + 64);
    bytes.set(head);
    new DataView(bytes.buffer).setUint32(head.length + 36, count, true);
    return bytes;
  };
  const file = (name: string, text: string, says: RegExp) => ({
    name: `${name}.ply`,
    bytes: encode(`${text}0 0 0\n1 0 0\n0 1 0\n3 0 1 2\n`),
    says,
  });
  return [
    file("vertices", header(binary, "50000000", "1"), /promises at least/),
    file("vertices-ascii", header("ascii", "50000000", "1"), /promises/),
    file("vertices-endless", header(binary, "1e300", "1"), /line 3/),
    file("vertices-negative", header("ascii", "-3", "1"), /line 3/),
    file("faces", header("ascii", "3", "50000000"), /promises/),
    file("faces-binary", header(binary, "1", "4000000000"), /line 7/),
    file(
      "nothing",
      header(binary, "1", "1").replace(
        "end_header",
        "element nothing 50000000\nend_header",
      ),
      /50000000 nothings without any property/,
    ),
    {
      name: "list.ply",
      bytes: listed(header(binary, "3", "1", "list uint int"), 4e9),
      says: /list of 4000000000 entries/,
    },
    {
      name: "list-within.ply",
      bytes: listed(header(binary, "3", "1", "list uint int"), 900_000),
      says: /the file ends at face 1/,
    },
  ];
}

function objFiles(): HostileFile[] {
  const lines = (count: number, make: (i: number) => string) =>
    Array.from({ length: count }, (_, i) => make(i)).join("");
  const file = (name: string, text: string, says: RegExp) => ({
    name: `${name}.obj`,
    bytes: encode(text),
    says,
  });
  const triangle = "v 0 0 0\nv 1 0 0\nv 0 1 0\n";
  return [
    file("index", `${triangle}f 1 2 4000000000\n`, /out of range/),
    file("index-back", `${triangle}f -1 -2 -4000000000\n`, /out of range/),
    file("index-uv", `${triangle}f 1/99999999 2 3\n`, /out of range/),
    file(
      "groups",
      `${triangle}${lines(100_000, (i) => `g ${i}\nf 1 2 3\n`)}`,
      /parts/,
    ),
    file(
      "materials",
      `${triangle}${lines(100_000, (i) => `usemtl ${i}\nf 1 2 3\n`)}`,
      /materials/,
    ),
  ];
}

function stlFiles(): HostileFile[] {
  const binary = new Uint8Array(134);
  new DataView(binary.buffer).setUint32(80, 0xffffffff, true);
  const solid = (i: number) =>
    `solid ${i}\nfacet normal 0 0 1\nouter loop\nvertex 0 0 0\nvertex 1 0 0\nvertex 0 1 0\nendloop\nendfacet\nendsolid\n`;
  return [
    { name: "count.stl", bytes: binary, says: /promises 4294967295 triangles/ },
    {
      name: "solids.stl",
      bytes: encode(
        Array.from({ length: 20_000 }, (_, i) => solid(i)).join(""),
      ),
      says: /parts/,
    },
  ];
}

export const hostileFiles = (): HostileFile[] => [
  ...gltfFiles(),
  ...plyFiles(),
  ...objFiles(),
  ...stlFiles(),
];
