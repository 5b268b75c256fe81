import { beforeAll, describe, expect, it } from "vitest";
import { sentPictures } from "../tests/sent-pictures";
import { cube, joined, moved, sphere, tubeMesh, scaled } from "../tests/shapes";
import type { Asset, Brief, Part } from "./asset/asset";
import { createAsset, createPart } from "./asset/asset";
import { PROFILES } from "./asset/profile";
import { mapParts } from "./asset/parts";
import { followRepeats } from "./asset/repeats";
import { withSettledSources } from "./asset/settled";
import { agedBy, stageStates } from "./asset/stale";
import type { Stage } from "./asset/stages";
import type { Mesh } from "./mesh/mesh";
import { faceCount } from "./mesh/mesh";
import { keepFaces } from "./mesh/change-faces";
import { invert } from "./mesh/select";
import type { MeshArray, StreamName } from "./mesh/streams";
import { STREAM_NAMES, STREAMS } from "./mesh/streams";
import { shotsFor } from "./ship/methods/shots";
import { plainContext } from "./base/context";
import { findOperation, KERNELS } from "./operations";
import { describe as documentOf, runOperation } from "./route";

/** The operation of each stage whose result is looked at, with options that make it quick. */
const RESULTS: [Stage, string, object][] = [
  ["survey", "survey/count", { ahead: "never" }],
  ["reduce", "reduce/to-budget", { measure: false }],
  ["edges", "edges/hard-by-angle", {}],
  ["unwrap", "unwrap/unwrap", { rounds: 0, symmetric: false }],
  [
    "bake",
    "bake/maps",
    { rays: 4, samples: 1, also: ["id", "material", "part", "colour"] },
  ],
  ["finish", "finish/look", {}],
  ["collide", "collide/hulls", {}],
  ["ship", "ship/archive", {}],
];

/** The report's pictures come along as from a view: drawing them takes longer than all else, of what the GLB holds too. */
const files = sentPictures(shotsFor("ship/archive", {})!);
const context = { ...plainContext(KERNELS), files };
const run = (asset: Asset, id: string, options: object) =>
  runOperation(findOperation(id), asset, options, context);

function ballOfHalves(): Mesh {
  const ball = sphere(5, 7);
  const half = new Uint8Array(faceCount(ball)).fill(1, 0, faceCount(ball) / 2);
  return joined(keepFaces(ball, half), keepFaces(ball, invert(half)));
}

/** A box in a ball of two halves, or in another body, and a box beside them: all through the route. */
async function routed(body = ballOfHalves()): Promise<Asset> {
  const asset = createAsset("mooring", [
    createPart("body", 0, { source: { ...body, materials: ["bone"] } }),
    createPart("cap", 1, { source: moved(cube(), 4, 0, 0) }),
    createPart("core", 2, { source: scaled(cube(), 0.1) }),
  ]);
  let at: Asset = {
    ...asset,
    brief: { ...asset.brief, triangles: 64, sheetSize: 32, padding: 1 },
  };
  for (const [, id, options] of RESULTS)
    at = (await run(at, id, options)).asset;
  return at;
}

let ready: Promise<Asset> | undefined;
const routedOnce = () => (ready ??= routed());

/** What another run may give otherwise: times. */
const TIMES = /"(seconds|raysPerSecond)":[^,}]*/g;
/** Where shapes will break is kept with what it was found from. */
const FORESEEN = /"(knee|breaking|kneeFor)":(\[[^\]]*\]|[^,}]*)/g;
/** What Edges and Unwrap count besides, as it was by their last step: their results do not hang on it. */
const COUNTED =
  /"(vertices|verticesBefore|split|places|hardWithoutSplit|unsplit)":[^,}]*/g;

/** What a stage came to, as text: its report, and what it made. */
function productOf(
  stage: Stage,
  { asset, report, files }: Awaited<ReturnType<typeof run>>,
): string {
  const games = (...names: (StreamName | "positions" | "corners")[]) =>
    asset.parts.map(({ game }) => names.map((name) => listed(game?.[name])));
  const made: Partial<Record<Stage, unknown>> = {
    reduce: games("positions", "corners", "faceMaterials", "ids", "uvs"),
    edges: games("hard", "normals"),
    unwrap: games("uvs", "seams", "copies"),
    bake: asset.maps.map(({ pixels, kind }) => [kind, ...pixels]),
    collide: asset.parts.map(({ hulls }) =>
      hulls.map(({ name, positions }) => [name, ...positions]),
    ),
    ship: files?.map(({ name, bytes }) => [
      name,
      Buffer.from(bytes).toString("base64"),
    ]),
  };
  // How much of it had to be done again is not what came out.
  const { counts, baked, bakedMaps, prints, rays, ...told } = report;
  void [counts, baked, bakedMaps, prints, rays];
  const text = JSON.stringify([told, made[stage]])
    .replace(TIMES, "")
    .replace(FORESEEN, "");
  return stage === "edges" || stage === "unwrap"
    ? text.replace(COUNTED, "")
    : text;
}

const listed = (values: MeshArray | null | undefined) => values && [...values];

/** A mesh with one stream other than it is: with marks on a third of it. */
function withOther(mesh: Mesh, name: StreamName): Mesh {
  const { on, width } = STREAMS[name];
  const rows = on === "faces" ? faceCount(mesh) : mesh.corners.length;
  const old = mesh[name];
  const Kind = (old?.constructor ?? KINDS[name] ?? Uint8Array) as new (
    length: number,
  ) => MeshArray;
  const values = new Kind(rows * width);
  if (old) values.set(old);
  if (name === "visibility") {
    // A piece is seen by nobody where none of its faces is.
  } else if (name === "normals") {
    for (let c = 0; c < rows; c++) values.set([0, 1, 0], 3 * c);
  } else
    for (let i = 0; i < values.length; i += 3)
      values[i] =
        name === "uvs" ? values[i] + 0.07 : (MARKS[name] ?? (old?.[i] ? 0 : 1));
  return {
    ...mesh,
    [name]: values,
    ...(name === "faceMaterials" && { materials: [...mesh.materials, "rope"] }),
    // Own normals are what somebody took from elsewhere.
    ...(name === "ownNormals" &&
      !mesh.normals && {
        normals: new Float32Array(3 * mesh.corners.length).fill(0.577),
      }),
  };
}
const FAR_OFF = [1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0, 9, 0, 0, 1];

const KINDS: Partial<Record<StreamName, unknown>> = {
  uvs: Float32Array,
  normals: Float32Array,
  faceMaterials: Uint16Array,
  ids: Uint16Array,
  rounds: Uint16Array,
};
const MARKS: Partial<Record<StreamName, number>> = {
  density: 160,
  texelWeights: 180,
  rounds: 9000,
};

const inFirst =
  (change: (part: Part) => Partial<Part>) =>
  (asset: Asset): Asset =>
    mapParts(asset, (part, i) => (i ? part : { ...part, ...change(part) }));
const inBrief =
  (brief: Partial<Brief>) =>
  (asset: Asset): Asset => ({ ...asset, brief: { ...asset.brief, ...brief } });
const withRest =
  (rest: Partial<Asset>) =>
  (asset: Asset): Asset => ({ ...asset, ...rest });

const stretched = (mesh: Mesh): Mesh => ({
  ...mesh,
  positions: mesh.positions.map((x, i) => (i % 3 ? x : 1.2 * x)),
});

type Changes<K extends PropertyKey> = Record<
  K,
  ((asset: Asset) => Asset) | null
>;

const meshChanges = (which: "source" | "game") => ({
  [`${which} positions`]: inFirst((part) => ({
    [which]: stretched(part[which]!),
  })),
  ...Object.fromEntries(
    STREAM_NAMES.map((name) => [
      `${which} ${name}`,
      inFirst((part) => ({ [which]: withOther(part[which]!, name) })),
    ]),
  ),
});

/** Every field of a brief, of a part and of an asset, changed; null where nothing is to turn stale. */
const BRIEF: Changes<keyof Brief> = {
  triangles: inBrief({ triangles: 40 }),
  levels: inBrief({ levels: [30] }),
  sheetSize: inBrief({ sheetSize: 64 }),
  sheetHeight: inBrief({ sheetHeight: 16 }),
  sheets: inBrief({ sheets: 2 }),
  padding: inBrief({ padding: 2 }),
  texelsPerMetre: inBrief({ texelsPerMetre: 1 }),
  vertices: inBrief({ vertices: 10 }),
  hulls: inBrief({ hulls: 1 }),
  profile: inBrief({ profile: PROFILES[1].name }),
};
const PART: Changes<keyof Part> = {
  name: inFirst(() => ({ name: "mast" })),
  colour: inFirst(() => ({ colour: "#123456" })),
  // A lock says what may change, not what is true.
  locked: null,
  budget: inFirst(() => ({ budget: 24 })),
  capped: (asset) => inFirst(() => ({ budget: 24, capped: true }))(asset),
  share: inFirst(() => ({ share: 0.3 })),
  group: inFirst(() => ({ group: "deck" })),
  standIns: inFirst(({ source }) => ({
    standIns: [
      {
        ...{ faces: "0-9", of: faceCount(source!), shape: "box", sides: 8 },
        ...{ rings: 1, capped: true, each: false, made: "", triangles: 12 },
        ...{ rms: 0, max: 0 },
      } as Part["standIns"][number],
    ],
  })),
  repeat: (asset) =>
    followRepeats(
      mapParts(asset, (part, i) =>
        i === 1 ? { ...part, repeat: { of: "body", matrix: FAR_OFF } } : part,
      ),
    ),
  // Meshes are changed stream by stream below; these follow from the source.
  source: null,
  settled: null,
  game: null,
  light: null,
  tried: null,
  // What the game mesh was before: nobody changes it.
  previousUnwrap: null,
  levels: inFirst(({ game }) => ({ levels: [game!] })),
  dense: inFirst(({ source }) => ({ dense: stretched(source!) })),
  skinned: inFirst(({ source }) => ({
    dense: stretched(source!),
    skinned: true,
  })),
  hulls: inFirst(({ hulls }) => ({
    hulls: hulls.map((hull) => ({ ...hull, name: `${hull.name} two` })),
  })),
};
const ASSET: Changes<keyof Asset> = {
  name: withRest({ name: "bollard" }),
  // Changed field by field.
  brief: null,
  parts: null,
  maps: (asset) => ({ ...asset, maps: asset.maps.slice(1) }),
  // What lies aside goes nowhere.
  aside: (asset) => ({ ...asset, aside: asset.maps.slice(1) }),
  looks: withRest({
    looks: [
      {
        material: "bone",
        colour: "#334455",
        roughness: 0.5,
        metalness: 0,
        opacity: 0.5,
      },
    ],
  }),
  palette: withRest({ palette: [{ name: "one", colour: "#aabbcc" }] }),
  references: withRest({
    references: [
      {
        ...{ name: "front", kind: "png", width: 1, height: 1, plane: "front" },
        ...{ size: 1, at: [0, 0, 0], opacity: 1, bytes: new Uint8Array(4) },
      } as Asset["references"][number],
    ],
  }),
  painted: withRest({
    painted: {
      name: "p",
      kind: "png",
      width: 1,
      height: 1,
      bytes: new Uint8Array(4),
    },
  }),
  record: withRest({ record: null }),
  settleWithout: (asset) =>
    withSettledSources(
      {
        ...inFirst(({ source }) => ({ source: { ...source! } }))(asset),
        settleWithout: ["coincident", "stitch"],
      },
      undefined,
      context,
    ),
  // What became of the stages themselves.
  results: null,
  reports: null,
};

const named = (changes: Changes<string>, of: string) =>
  Object.entries(changes).flatMap(([name, change]) =>
    change ? [[`${of} ${name}`, change] as const] : [],
  );

const CHANGES = [
  ...named(BRIEF, "brief"),
  ...named(PART, "part"),
  ...named(ASSET, "asset"),
  ...named(meshChanges("source"), "each"),
  ...named(meshChanges("game"), "each"),
];

describe("what a change makes stale", () => {
  let base: Asset;
  const plain = new Map<Stage, string>();
  beforeAll(async () => {
    base = await routedOnce();
    for (const [stage, id, options] of RESULTS)
      plain.set(stage, productOf(stage, await run(base, id, options)));
  });

  it("is nothing where nothing changed", () => {
    expect(
      stageStates(documentOf(base)).filter(({ state }) => state === "stale"),
    ).toEqual([]);
  });

  it.each(CHANGES)(
    "%s: the stages that come out otherwise",
    async (_, change) => {
      const other = change(base);
      const stale = stageStates(documentOf(other))
        .filter(({ state }) => state === "stale")
        .map(({ stage }) => stage);
      const otherwise: Stage[] = [];
      for (const [stage, id, options] of RESULTS)
        try {
          const now = productOf(stage, await run(other, id, options));
          if (now !== plain.get(stage)) otherwise.push(stage);
        } catch {
          otherwise.push(stage);
        }
      expect(stale).toEqual(otherwise);
    },
  );
});

/** Reports that are kept beside the results, with options that make something of them. */
const REPORTS: [string, object][] = [
  ["reduce/levels", {}],
  ["reduce/judge", {}],
];
const OF_REPORTS = CHANGES.filter(([name]) =>
  [
    "brief levels",
    "brief padding",
    "each source positions",
    "each source ids",
    "each game positions",
    "each game uvs",
    "each game hard",
    "part hulls",
  ].includes(name),
);

const GAME_STREAMS = [
  ...["positions", "uvs", "seams", "faceMaterials", "ids"],
  ...["normals", "density"],
].map((name) => `each game ${name}`);
const tube = () => tubeMesh(10, 6);

/** Other ways to a stage's result, which read other things. */
const OTHER_RESULTS: [Stage, string, object, (() => Mesh)?][] = [
  ["edges", "edges/hard-at-borders", { where: "both", others: false }],
  ["edges", "edges/hard-at-islands", {}],
  [
    "unwrap",
    "unwrap/unwrap",
    { rounds: 0, symmetric: false, atMaterials: false, atIds: true },
  ],
  ["reduce", "reduce/even-quads", { density: false }],
  ["reduce", "reduce/skin-over", { cells: 12 }],
  ["reduce", "reduce/thin-loops", { triangles: 60 }, tube],
];

/** What they may read: the stages before have changed nothing else. */
const READ: Partial<Record<Stage, readonly string[]>> = {
  reduce: [
    ...["brief triangles", "part name", "part budget", "part standIns"],
    ...["part repeat", "asset looks", "asset settleWithout"],
    ...["positions", "uvs", "hard", "faceMaterials", "ids"].map(
      (name) => `each source ${name}`,
    ),
    ...["sourceOnly", "visibility", "density", "normals"].map(
      (name) => `each source ${name}`,
    ),
  ],
  edges: ["part name", ...GAME_STREAMS],
  unwrap: ["part name", "brief padding", ...GAME_STREAMS],
};

describe.each(OTHER_RESULTS)("%s by %s %o", (stage, id, options, body) => {
  let base: Asset;
  let plain: string;
  beforeAll(async () => {
    const before = body ? await routed(body()) : await routedOnce();
    base = (await run(before, id, options)).asset;
    plain = productOf(stage, await run(base, id, options));
  });

  const read = CHANGES.filter(
    ([name]) =>
      READ[stage]!.includes(name) &&
      // A skin closes what settling would have joined, and there is nothing to join in a tube.
      !(
        ["reduce/skin-over", "reduce/thin-loops"].includes(id) &&
        name === "asset settleWithout"
      ),
  );
  it.each(read)("%s", async (_, change) => {
    const other = change(base);
    const stale = stageStates(documentOf(other)).some(
      (each) => each.stage === stage && each.state === "stale",
    );
    const otherwise = await run(other, id, options).then(
      (result) => productOf(stage, result) !== plain,
      () => true,
    );
    expect(stale).toBe(otherwise);
  });
});

describe("what a change makes of kept reports", () => {
  let base: Asset;
  const plain = new Map<string, string>();
  const reportOf = async (asset: Asset, id: string, options: object) =>
    JSON.stringify((await run(asset, id, options)).report).replace(TIMES, "");
  beforeAll(async () => {
    base = await routedOnce();
    for (const [id, options] of REPORTS)
      base = (await run(base, id, options)).asset;
    for (const [id, options] of REPORTS)
      plain.set(id, await reportOf(base, id, options));
  });

  it.each(OF_REPORTS)(
    "%s: those that come out otherwise",
    async (_, change) => {
      const other = change(base);
      const aged = REPORTS.flatMap(([id]) =>
        agedBy(documentOf(other), id) ? [id] : [],
      );
      const otherwise: string[] = [];
      for (const [id, options] of REPORTS)
        if ((await reportOf(other, id, options)) !== plain.get(id))
          otherwise.push(id);
      expect(aged).toEqual(otherwise);
    },
  );
});
