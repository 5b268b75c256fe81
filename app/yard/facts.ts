import { HULL_KINDS } from "../../core/mesh/hull";

/** What of a glTF's JSON the yard looks at. */
export interface GltfJson {
  scene?: number;
  scenes?: { nodes?: number[] }[];
  nodes?: GltfNode[];
  meshes?: { primitives: GltfPrimitive[] }[];
  accessors?: { count: number; max?: number[]; min?: number[] }[];
  materials?: GltfMaterial[];
  textures?: {
    source?: number;
    extensions?: Record<string, { source?: number }>;
  }[];
  images?: { name?: string; mimeType?: string; uri?: string }[];
}

export interface GltfNode {
  name?: string;
  mesh?: number;
  children?: number[];
  extras?: {
    MSFT_screencoverage?: number[];
    arnik?: { hull?: string; level?: number; of?: string };
  };
  extensions?: {
    MSFT_lod?: { ids: number[] };
    EXT_mesh_gpu_instancing?: { attributes: Record<string, number> };
    KHR_physics_rigid_bodies?: object;
  };
}

interface GltfPrimitive {
  attributes: Record<string, number>;
  indices?: number;
  material?: number;
}

interface TextureUse {
  index: number;
}

interface GltfMaterial {
  name?: string;
  normalTexture?: TextureUse;
  occlusionTexture?: TextureUse;
  emissiveTexture?: TextureUse;
  pbrMetallicRoughness?: {
    baseColorTexture?: TextureUse;
    metallicRoughnessTexture?: TextureUse;
  };
}

/** A part as it is drawn: its node, and those of its levels, nearest first. */
export interface DrawnPart {
  name: string;
  nodes: number[];
  /** For each level the least share of the screen with which it is drawn, where the file says it. */
  coverage: number[] | null;
}

export interface LevelFacts {
  triangles: number;
  /** As a graphics card has them, with all that splits them. */
  vertices: number;
  /** Materials: as many calls draw it. */
  materials: number;
}

export interface TextureFacts {
  name: string;
  format: string;
  width: number;
  height: number;
  /** Bytes on a graphics card with all mips, as they are, and in blocks of one byte a texel. */
  plain: number;
  blocks: number;
}

export interface Facts {
  parts: number;
  levels: LevelFacts[];
  textures: TextureFacts[];
  hulls: { count: number; triangles: number };
  /** Metres. */
  size: [number, number, number];
  /** How far the lowest point is over nought, metres. */
  lowest: number;
  /** What is wrong, or likely to be. */
  findings: { tone: "bad" | "warn"; text: string }[];
}

const HULL_NAME = /_hull_\d+$/;
const LEVEL_NAME = /^(.+)_lod([1-9]\d?)$/i;

const isHull = ({ name, extras, extensions }: GltfNode) =>
  HULL_KINDS.some((kind) => kind === extras?.arnik?.hull) ||
  Boolean(extensions?.KHR_physics_rigid_bodies) ||
  HULL_NAME.test(name ?? "");

/** Nodes of the scene that hold something, in the order of the file. */
function sceneNodes(json: GltfJson): number[] {
  const nodes = json.nodes ?? [];
  const found: number[] = [];
  const waiting = [...(json.scenes?.[json.scene ?? 0]?.nodes ?? [])].reverse();
  while (waiting.length && found.length < nodes.length) {
    const at = waiting.pop()!;
    found.push(at);
    waiting.push(...(nodes[at]?.children ?? []).toReversed());
  }
  return found;
}

/** The hulls of a file, by their nodes. */
export const hullNodes = (json: GltfJson): number[] =>
  sceneNodes(json).filter((at) => isHull(json.nodes![at]));

/**
 * What of a file is drawn: parts with their levels, be these told by MSFT_lod, by what Arnik leaves beside a node, or by
 * their names.
 */
export function drawnParts(json: GltfJson): DrawnPart[] {
  const nodes = json.nodes ?? [];
  const drawn = sceneNodes(json).filter(
    (at) => nodes[at].mesh !== undefined && !isHull(nodes[at]),
  );
  const nameOf = (at: number) => nodes[at].name ?? "";
  const names = new Set(drawn.map(nameOf));
  /** The part that a node is a level of, and which. */
  const levelOf = (at: number): [string, number] | null => {
    const { level, of } = nodes[at].extras?.arnik ?? {};
    if (level && of) return [of, level];
    const [, base, number] = LEVEL_NAME.exec(nameOf(at)) ?? [];
    return base && names.has(base) ? [base, Number(number)] : null;
  };
  const byName = new Map<string, [number, number][]>();
  for (const at of drawn) {
    const found = levelOf(at);
    if (!found) continue;
    const [of, level] = found;
    byName.set(of, [...(byName.get(of) ?? []), [level, at]]);
  }
  return drawn
    .filter((at) => !levelOf(at))
    .map((at) => {
      const own = nodes[at].extensions?.MSFT_lod?.ids ?? [];
      const named = (byName.get(nameOf(at)) ?? [])
        .toSorted(([a], [b]) => a - b)
        .map(([, node]) => node);
      return {
        name: nameOf(at),
        nodes: [at, ...(own.length ? own : named)],
        coverage: nodes[at].extras?.MSFT_screencoverage ?? null,
      };
    });
}

/** Bytes of a texture with all its mips: a third more than the largest one. */
const withMips = (width: number, height: number, bytes: number) => {
  let sum = 0;
  for (
    let w = width, h = height;
    ;
    w = Math.max(1, w >> 1), h = Math.max(1, h >> 1)
  ) {
    sum += w * h * bytes;
    if (w === 1 && h === 1) return sum;
  }
};

/** The picture that a texture draws from, be it in glTF itself or by an extension. */
export function sourceOf({
  source,
  extensions = {},
}: NonNullable<GltfJson["textures"]>[number]): number | undefined {
  return source ?? Object.values(extensions)[0]?.source;
}

const POWERS = /^1?0*$/;
/** A hull of more vertices is slow, or refused. */
const HULL_VERTICES = 255;

/**
 * What an engine would make of a file.
 * @param sizes width and height of each picture, px
 * @param bounds of all that is drawn at its first level, metres: least and greatest
 */
export function factsOf(
  json: GltfJson,
  sizes: readonly (readonly [number, number])[],
  bounds: { min: readonly number[]; max: readonly number[] },
): Facts {
  const parts = drawnParts(json);
  const most = Math.max(0, ...parts.map(({ nodes }) => nodes.length));
  const levels = Array.from({ length: most }, (_, l) =>
    levelFacts(json, parts, l),
  );
  const hulls = hullNodes(json);
  const textures = (json.images ?? []).map((image, i): TextureFacts => {
    const [width, height] = sizes[i] ?? [0, 0];
    const format = (image.mimeType ?? "").replace("image/", "").toUpperCase();
    return {
      name: image.name || `picture ${i + 1}`,
      format,
      width,
      height,
      // Those stay in blocks by themselves.
      plain: withMips(width, height, format === "KTX2" ? 1 : 4),
      blocks: withMips(width, height, 1),
    };
  });
  const size = bounds.max.map((high, k) => high - bounds.min[k]);
  const facts: Facts = {
    parts: parts.length,
    levels,
    textures,
    hulls: {
      count: hulls.length,
      triangles: hulls.reduce((sum, at) => sum + trianglesOf(json, at), 0),
    },
    size: size as [number, number, number],
    lowest: bounds.min[1],
    findings: [],
  };
  facts.findings = findingsOf(json, parts, facts, hulls);
  return facts;
}

const primitivesOf = (json: GltfJson, at: number): GltfPrimitive[] =>
  json.meshes?.[json.nodes![at].mesh ?? -1]?.primitives ?? [];

const countOf = (json: GltfJson, accessor: number | undefined) =>
  accessor === undefined ? 0 : (json.accessors?.[accessor]?.count ?? 0);

/** Triangles of a node, as often as it is drawn. */
function trianglesOf(json: GltfJson, at: number): number {
  const { attributes } =
    json.nodes![at].extensions?.EXT_mesh_gpu_instancing ?? {};
  const [first] = Object.values(attributes ?? {});
  const times = attributes ? countOf(json, first) : 1;
  return (
    times *
    primitivesOf(json, at).reduce(
      (sum, { indices, attributes: own }) =>
        sum + countOf(json, indices ?? own.POSITION) / 3,
      0,
    )
  );
}

function levelFacts(
  json: GltfJson,
  parts: readonly DrawnPart[],
  level: number,
): LevelFacts {
  const materials = new Set<number>();
  let triangles = 0;
  let vertices = 0;
  for (const { nodes } of parts) {
    const at = nodes[Math.min(level, nodes.length - 1)];
    triangles += trianglesOf(json, at);
    for (const { attributes, material = -1 } of primitivesOf(json, at)) {
      vertices += countOf(json, attributes.POSITION);
      materials.add(material);
    }
  }
  return { triangles, vertices, materials: materials.size };
}

/** What is wrong in a delivery, or likely to be: what one would else find out in an engine. */
function findingsOf(
  json: GltfJson,
  parts: readonly DrawnPart[],
  { levels, textures, size, lowest }: Facts,
  hulls: readonly number[],
): Facts["findings"] {
  const found: Facts["findings"] = [];
  const warn = (text: string, tone: "bad" | "warn" = "warn") =>
    found.push({ tone, text });
  if (!parts.length) warn("nothing in it is drawn: there is no mesh", "bad");
  const primitives = parts.flatMap(({ nodes }) =>
    nodes.flatMap((at) => primitivesOf(json, at)),
  );
  const lacking = (name: string) =>
    primitives.filter(({ attributes }) => attributes[name] === undefined);
  const mapped = ({ material }: GltfPrimitive) =>
    material !== undefined && json.materials?.[material]?.normalTexture;
  if (lacking("NORMAL").length)
    warn(
      "it has no normals: an engine makes its own, and edges look otherwise",
    );
  if (textures.length && lacking("TEXCOORD_0").length)
    warn("some of it has no UVs, but there are maps", "bad");
  if (lacking("TANGENT").some(mapped))
    warn(
      "a normal map without tangents: an engine makes its own, and seams may show",
    );
  if (primitives.some(({ material }) => material === undefined))
    warn("some of it has no material: an engine gives it its own");
  const used = new Set((json.textures ?? []).map(sourceOf));
  for (const [i, { name, width, height }] of textures.entries()) {
    if (!width && used.has(i)) warn(`${name} can't be opened`, "bad");
    if (!POWERS.test(width.toString(2)) || !POWERS.test(height.toString(2)))
      warn(`${name} is ${width} × ${height}: mips need powers of two`);
    if (Math.max(width, height) > 8192)
      warn(`${name} is ${width} × ${height}: more than many cards take`, "bad");
  }
  levels.forEach(({ triangles }, l) => {
    if (l && triangles >= levels[l - 1].triangles)
      warn(`level ${l} is no lighter than the one before`, "bad");
  });
  if (levels.length === 1 && levels[0].triangles > 1500)
    warn("it has no levels of detail: from afar it costs as much as from near");
  if (parts.some(({ nodes, coverage }) => nodes.length > 1 && !coverage))
    warn(
      "nothing says from where its levels set in: the yard goes by their triangles",
    );
  if (levels.length && levels[0].materials > 4)
    warn(`${levels[0].materials} materials: each takes a draw call of its own`);
  if (!hulls.length) warn("it has no collision hulls: one walks through it");
  for (const at of hulls) {
    const vertices = primitivesOf(json, at).reduce(
      (sum, { attributes }) => sum + countOf(json, attributes.POSITION),
      0,
    );
    if (
      vertices > HULL_VERTICES &&
      json.nodes![at].extras?.arnik?.hull !== "ground"
    )
      warn(
        `${json.nodes![at].name ?? "a hull"} has ${vertices} vertices: engines take up to ${HULL_VERTICES}`,
      );
  }
  const largest = Math.max(0, ...size);
  if (largest > 100 || (largest > 0 && largest < 0.005))
    warn(
      `it is ${largest.toPrecision(2)} m large: is it in metres?`,
      largest > 1000 ? "bad" : "warn",
    );
  if (Math.abs(lowest) > 0.01 * largest && largest > 0)
    warn(
      lowest > 0
        ? "its pivot lies under it: put down at nought it floats"
        : "its pivot lies within it: put down at nought it sinks in",
    );
  return found;
}
