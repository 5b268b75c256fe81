import { zipSync } from "fflate";
import { profileOf } from "../../asset/asset";
import { spaced } from "../../base/wording";
import type { Asset } from "../../asset/asset";
import { totalTriangles } from "../../asset/parts";
import { ArnikError, MissingInputError } from "../../base/errors";
import {
  hullMeshes,
  writeMeshFile,
  writeMtl,
  writeObj,
} from "../../formats/index";
import type { GltfExtras, GltfImages } from "../../formats/write-gltf";
import { writeGlb, writeGltf } from "../../formats/write-gltf";
import { tellsOfBake } from "../../base/pictures";
import { inEightBits } from "../../formats/dither";
import { flipGreen, writePng, whiteWith } from "../../formats/png";
import { safeName } from "../../formats/raw-mesh";
import type { NamedMesh } from "../../formats/raw-mesh";
import { hasCard } from "../../asset/stand-ins";
import { defineOperation, field } from "../../asset/operation";
import { engineVertices } from "../../mesh/engine-vertices";
import { triangleCount } from "../../mesh/mesh";
import { tilesUsed, udimOf } from "../../mesh/tiles";
import { orientFor } from "../methods/orient-for";
import {
  looksOnTiles,
  mapFileName,
  materialOnTile,
  onOneSheet,
} from "../methods/tiled";

class ShipOptions {
  @field({
    kind: "flag",
    label: "OBJ too",
    help: "Adds an OBJ with its material library beside the GLB.",
  })
  obj = true;

  @field({
    kind: "flag",
    label: "glTF too",
    help: "Adds the GLB's contents as a glTF file with its data inside.",
    folded: true,
  })
  gltf = false;

  @field({
    kind: "flag",
    label: "PLY too",
    help: "Adds the game meshes as one PLY, with UVs and vertex colours.",
    folded: true,
  })
  ply = false;

  @field({
    kind: "flag",
    label: "STL too",
    help: "Adds the game meshes as one STL: their shape alone.",
    folded: true,
  })
  stl = false;

  @field({
    kind: "flag",
    label: "Hulls",
    help: "Puts the collision hulls in as named nodes.",
  })
  hulls = true;
}

export interface ShippedFile {
  name: string;
  bytes: Uint8Array;
}

export const shipAsset = defineOperation({
  id: "ship/archive",
  stage: "ship",
  title: "Ship",
  about:
    "Writes GLB, OBJ, maps and a report, checks the GLB with the glTF validator, and packs all into one archive.",
  runs: "heavy",
  takes: "game",
  makesResult: true,
  Options: ShipOptions,
  async run(asset, options, context) {
    context.progress(0.1, "writing files");
    const { files, report } = await shipFiles(asset, options);
    context.check();
    context.progress(0.9, "packing the archive");
    const name = safeName(asset.name, "asset");
    const archive = zipSync(
      Object.fromEntries(
        files.map((file) => [
          file.name,
          [file.bytes, { mtime: new Date(2020, 0, 1) }],
        ]),
      ),
      { level: 6 },
    );
    return {
      asset,
      headline: `${files.length} files`,
      report: {
        ...report,
        files: files.map((file) => ({
          name: file.name,
          bytes: file.bytes.length,
        })),
        archiveBytes: archive.length,
      },
      files: [{ name: `${name}.zip`, bytes: archive }],
    };
  },
});

/**
 * The files of a delivery.
 * In one piece: a list of files, each named where it is written.
 * @throws ArnikError where the validator finds an error in the GLB
 */
export async function shipFiles(
  asset: Asset,
  options: Pick<ShipOptions, "obj" | "hulls"> & Partial<ShipOptions>,
) {
  const parts: NamedMesh[] = asset.parts.flatMap((part) =>
    part.game ? [{ name: part.name, mesh: part.game }] : [],
  );
  if (!parts.length)
    throw new MissingInputError(
      "there is no game mesh to ship: make one at Reduce",
    );
  const hulls = options.hulls
    ? asset.parts.flatMap((part) =>
        part.hulls.map((hull) => ({ ...hull, of: part.name })),
      )
    : [];
  const name = safeName(asset.name, "asset");
  const profile = profileOf(asset.brief);
  const files: ShippedFile[] = [];
  const tiles = tilesUsed(parts.map(({ mesh }) => mesh));
  const images = new Map<number, GltfImages>();
  // What became of the rays is for whoever bakes.
  const shipped = asset.maps.filter(({ kind }) => !tellsOfBake(kind));
  for (const map of shipped) {
    const png = writePng(map);
    files.push({ name: mapFileName(name, map, shipped), bytes: png });
    const own = images.get(map.tile ?? 0) ?? {};
    // glTF's green channel points up whatever the profile wants. It has no place for the other maps. What shows a GLB
    // reads 8 bits: 16 would only make it heavy.
    if (map.kind === "normal")
      own.normal = writePng(
        inEightBits(profile.greenUp ? map : flipGreen(map)),
      );
    else if (map.kind === "ao") own.ao = writePng(inEightBits(map));
    else if (map.kind === "opacity") own.mask = writePng(whiteWith(map));
    images.set(map.tile ?? 0, own);
  }
  const unwrapped = parts.every(({ mesh }) => mesh.uvs);
  const several = tiles.some((tile) => tile > 0);
  const onSheets = several
    ? parts.map((part) => ({ ...part, mesh: onOneSheet(part.mesh) }))
    : parts;
  const extras: GltfExtras = {
    looks: several ? looksOnTiles(asset.looks, tiles) : asset.looks,
    images: !unwrapped
      ? []
      : [...images].map(([tile, own]) => ({
          ...own,
          ending: several ? materialOnTile("", tile) : "",
        })),
    hulls,
    tangents: unwrapped,
    cards: onSheets.flatMap(({ name: part, mesh }) =>
      asset.parts.some((each) => each.name === part && hasCard(each))
        ? mesh.materials
        : [],
    ),
  };
  const glb = await writeGlb(name, onSheets, extras);
  const check = await validateGlb(`${name}.glb`, glb);
  files.unshift({ name: `${name}.glb`, bytes: glb });
  if (options.obj) {
    const out = [...parts, ...hullMeshes(hulls)].map((part) =>
      orientFor(part, profile),
    );
    files.push({ name: `${name}.obj`, bytes: writeObj(out, `${name}.mtl`) });
    const plain = new Set(out.flatMap(({ mesh }) => mesh.materials));
    for (const { material } of asset.looks) plain.delete(material);
    const looks = [
      ...asset.looks,
      ...[...plain].map((material) => ({ material, colour: "#b8b2a6" })),
    ];
    files.push({ name: `${name}.mtl`, bytes: writeMtl(looks) });
  }
  if (options.gltf)
    files.push({
      name: `${name}.gltf`,
      bytes: await writeGltf(name, onSheets, extras),
    });
  for (const ending of ["ply", "stl"] as const)
    if (options[ending])
      files.push({
        name: `${name}.${ending}`,
        bytes: await writeMeshFile(
          `${name}.${ending}`,
          parts.map((part) => orientFor(part, profile)),
        ),
      });
  const vertices = parts.reduce(
    (sum, { mesh }) => sum + engineVertices(mesh).split,
    0,
  );
  const { vertices: allowed } = asset.brief;
  const report = {
    ...(allowed > 0 &&
      vertices > allowed && {
        failed: `${spaced(vertices)} vertices, as an engine counts them, where ${spaced(allowed)} are allowed: fewer triangles, hard edges, seams and materials make fewer`,
      }),
    asset: asset.name,
    triangles: totalTriangles(asset, "game"),
    vertices,
    budget: asset.brief.triangles,
    levels: levelTriangles(asset),
    hulls: hulls.length,
    maps: shipped.map(
      (map) =>
        `${map.kind}${several ? ` ${udimOf(map.tile ?? 0)}` : ""} ${map.width}×${map.height}, ${map.depth} bit`,
    ),
    profile: profile.name,
    validator: check,
    stages: Object.fromEntries(
      // What the next bake goes by says nothing to people.
      Object.entries(asset.results).map(([stage, { headline, report }]) => [
        stage,
        { headline, ...report, prints: undefined },
      ]),
    ),
    summary: `${spaced(totalTriangles(asset, "game"))} triangles, validator: ${check.errors} errors, ${check.warnings} warnings`,
  };
  files.push({
    name: "report.json",
    bytes: new TextEncoder().encode(`${JSON.stringify(report, null, 2)}\n`),
  });
  return { files, report };
}

/** Triangles of each level of detail, over all parts that have it. */
function levelTriangles({ parts }: Asset): number[] {
  const most = Math.max(0, ...parts.map(({ levels }) => levels.length));
  return Array.from({ length: most }, (_, l) =>
    parts.reduce(
      (sum, { levels }) => sum + (levels[l] ? triangleCount(levels[l]) : 0),
      0,
    ),
  );
}

/** The Khronos validator's count. @throws ArnikError naming the first error */
export async function validateGlb(name: string, glb: Uint8Array) {
  const { validateBytes } = await import("gltf-validator");
  const { issues } = await validateBytes(glb, { uri: name, maxIssues: 20 });
  if (issues.numErrors > 0) {
    const first = issues.messages.find((message) => message.severity === 0);
    throw new ArnikError(
      `${name} does not pass the glTF validator: ${first?.message} (${first?.pointer})`,
    );
  }
  return {
    errors: issues.numErrors,
    warnings: issues.numWarnings,
    infos: issues.numInfos,
  };
}
