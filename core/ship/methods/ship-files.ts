import type { Asset } from "../../asset/asset";
import { profileOf } from "../../asset/asset";
import { totalTriangles } from "../../asset/parts";
import type { Context } from "../../base/context";
import type { BakedMap } from "../../base/pictures";
import { tellsOfBake } from "../../base/pictures";
import { spaced } from "../../base/wording";
import { inEightBits } from "../../formats/dither";
import {
  hullMeshes,
  writeMeshFile,
  writeMtl,
  writeObj,
} from "../../formats/index";
import { flipGreen, whiteWith, writePng } from "../../formats/png";
import type { NamedMesh } from "../../formats/raw-mesh";
import { safeName } from "../../formats/raw-mesh";
import type { GltfExtras, GltfImages } from "../../formats/write-gltf";
import { levelName, writeGlb, writeGltf } from "../../formats/write-gltf";
import { tilesUsed, udimOf } from "../../mesh/tiles";
import { checkList, levelTriangles, splitVertices } from "./check-list";
import type { Delivery } from "./delivery";
import { deliveredParts, deliveriesOf } from "./delivery";
import { orientFor } from "./orient-for";
import type { ReadBack, Written } from "./read-back";
import { readBack } from "./read-back";
import { reportPage } from "./report-page";
import type { ShipOptions } from "./ship-options";
import { looksOnTiles, mapFileName, materialOnTile, onOneSheet } from "./tiled";
import type { ValidatorCounts } from "./validate";
import { validateGlb } from "./validate";

export interface ShippedFile {
  name: string;
  bytes: Uint8Array;
}

/** What is the same for all files of a delivery. */
interface Common {
  asset: Asset;
  options: ShipOptions;
  maps: readonly BakedMap[];
  images: readonly GltfImages[];
  tiles: readonly number[];
  /** Whether islands lie on more than the first sheet. */
  several: boolean;
}

/**
 * The files of a delivery, each read again and compared with the asset, and the check list that they are held against.
 * In one piece: a list of files, each named where it is written.
 * @returns no files but the report where a check stops the delivery, unless that is insisted on
 * @throws ArnikError where the validator finds an error in a GLB
 */
export async function shipFiles(
  asset: Asset,
  options: ShipOptions,
  context: Pick<Context, "progress" | "check">,
) {
  const name = safeName(asset.name, "asset");
  const profile = profileOf(asset.brief);
  const delivered = {
    parts: deliveredParts(asset, {
      ...options,
      levels: options.levels !== "none",
    }),
  };
  const deliveries = deliveriesOf(
    delivered.parts,
    {
      ...options,
      point: [options.pointX, options.pointY, options.pointZ].map(
        (x) => x / 1000,
      ) as unknown as [number, number, number],
    },
    name,
    (part) => `${name}_${safeName(part, "part")}`,
  );
  const files: ShippedFile[] = [];
  const tiles = tilesUsed(delivered.parts.flatMap(({ game }) => game ?? []));
  // What became of the rays is for whoever bakes.
  const maps = asset.maps.filter(({ kind }) => !tellsOfBake(kind));
  for (const map of maps)
    files.push({ name: mapFileName(name, map, maps), bytes: writePng(map) });
  const several = tiles.some((tile) => tile > 0);
  const images = imagesOf(maps, profile.greenUp, several);
  const common = { asset, options, maps, images, tiles, several };
  const validator: ValidatorCounts = { errors: 0, warnings: 0, infos: 0 };
  const back: ReadBack[] = [];
  for (const [d, delivery] of deliveries.entries()) {
    context.progress(d / deliveries.length, `writing ${delivery.name}`);
    const meshes = await meshFiles(delivery, common);
    for (const { name: file, bytes, written } of meshes) {
      context.check();
      files.unshift({ name: file, bytes });
      if (/\.gl(b|tf)$/.test(file)) {
        const found = await validateGlb(file, bytes);
        for (const kind of ["errors", "warnings", "infos"] as const)
          validator[kind] += found[kind];
      }
      if (written) back.push(await readBack(file, bytes, written));
    }
  }
  const checks = checkList(asset, delivered, validator, back);
  const failed = checks.filter(({ ok, stops }) => !ok && stops);
  const levels = [
    totalTriangles(delivered, "game"),
    ...levelTriangles(delivered),
  ];
  const held = failed.length > 0 && !options.insist;
  const words = failed.map(
    (check) => `${check.name}: ${check.figure}, ${check.limit} allowed`,
  );
  const report = {
    ...(held && {
      failed: `nothing is shipped: ${words.join("; ")}. Mend it, or ship in spite of failed checks`,
    }),
    ...(failed.length > 0 && !held && { waived: words }),
    asset: asset.name,
    triangles: levels[0],
    vertices: splitVertices(delivered),
    budget: asset.brief.triangles,
    levels: levels.slice(1),
    hulls: deliveries.reduce((sum, each) => sum + each.hulls.length, 0),
    pivots: deliveries.map(({ pivot }) => pivot),
    maps: maps.map(
      (map) =>
        `${map.kind}${several ? ` ${udimOf(map.tile ?? 0)}` : ""} ${map.width}×${map.height}, ${map.depth} bit`,
    ),
    profile: profile.name,
    validator,
    checks,
    readBack: back,
    stages: Object.fromEntries(
      // What the next bake goes by says nothing to people.
      Object.entries(asset.results).map(([stage, { headline, report }]) => [
        stage,
        { headline, ...report, prints: undefined },
      ]),
    ),
    summary: `${spaced(levels[0])} triangles, validator: ${validator.errors} errors, ${validator.warnings} warnings`,
  };
  if (held) files.length = 0;
  if (options.page) {
    context.progress(0.8, "drawing the report");
    const page = reportPage(
      {
        asset,
        // Where they stand in the asset, whatever the pivots of their files.
        meshes: delivered.parts.flatMap(({ game }) => game ?? []),
        maps,
        greenUp: profile.greenUp,
        profile: profile.name,
        checks,
        waived: options.insist,
        files: files.map((file) => ({
          name: file.name,
          bytes: file.bytes.length,
        })),
        levels,
      },
      () => context.check(),
    );
    files.push({
      name: "report.html",
      bytes: new TextEncoder().encode(page),
    });
  }
  files.push({ name: "report.json", bytes: jsonOf(report) });
  return { files, report };
}

const jsonOf = (report: object) =>
  new TextEncoder().encode(`${JSON.stringify(report, null, 2)}\n`);

/** What glTF has a place for: normal maps, occlusion and masks, by tile. */
function imagesOf(
  maps: readonly BakedMap[],
  greenUp: boolean,
  several: boolean,
): GltfImages[] {
  const images = new Map<number, GltfImages>();
  for (const map of maps) {
    const own = images.get(map.tile ?? 0) ?? {};
    // glTF's green channel points up whatever the profile wants. It has no place for the other maps. What shows a GLB
    // reads 8 bits: 16 would only make it heavy.
    if (map.kind === "normal")
      own.normal = writePng(inEightBits(greenUp ? map : flipGreen(map)));
    else if (map.kind === "ao") own.ao = writePng(inEightBits(map));
    else if (map.kind === "opacity") own.mask = writePng(whiteWith(map));
    images.set(map.tile ?? 0, own);
  }
  return [...images].map(([tile, own]) => ({
    ...own,
    ending: several ? materialOnTile("", tile) : "",
  }));
}

type MeshFile = ShippedFile & { written: Written | null };

/** The mesh files of a delivery: the GLB last, as it comes first in the list. */
async function meshFiles(
  delivery: Delivery,
  { asset, options, images, tiles, several }: Common,
): Promise<MeshFile[]> {
  const { name, parts, hulls, levels } = delivery;
  const profile = profileOf(asset.brief);
  const unwrapped = parts.every(({ mesh }) => mesh.uvs);
  const onSheets = several
    ? parts.map((part) => ({ ...part, mesh: onOneSheet(part.mesh) }))
    : parts;
  const levelsOnSheets = several
    ? new Map([...levels].map(([part, list]) => [part, list.map(onOneSheet)]))
    : levels;
  const extras: GltfExtras = {
    looks: several ? looksOnTiles(asset.looks, tiles) : asset.looks,
    images: unwrapped ? images : [],
    hulls,
    tangents: unwrapped,
    levels: levelsOnSheets,
    levelsBy: options.levels === "name" ? "name" : "extension",
    ordered: options.ordered,
    cards: several
      ? delivery.cards.flatMap((card) =>
          tiles.map((tile) => materialOnTile(card, tile)),
        )
      : delivery.cards,
  };
  const whole: Written = {
    parts: onSheets,
    levels: levelsOnSheets,
    hulls: hulls.length,
    uvs: unwrapped,
    materials: true,
    parted: true,
  };
  const oriented = (list: readonly NamedMesh[]) =>
    list.map((part) => orientFor(part, profile));
  const files: MeshFile[] = [];
  for (const ending of ["stl", "ply"] as const)
    if (options[ending]) {
      const meshes = oriented(parts);
      const file = `${name}.${ending}`;
      files.push({
        name: file,
        bytes: await writeMeshFile(file, meshes),
        written: {
          parts: meshes,
          uvs: ending === "ply" && unwrapped,
          materials: false,
          parted: false,
        },
      });
    }
  if (options.gltf)
    files.push({
      name: `${name}.gltf`,
      bytes: await writeGltf(name, onSheets, extras),
      written: whole,
    });
  if (options.obj) files.push(...objFiles(delivery, asset, oriented));
  files.push({
    name: `${name}.glb`,
    bytes: await writeGlb(name, onSheets, extras),
    written: whole,
  });
  return files;
}

/** An OBJ with its material library, and one for each level. */
function objFiles(
  { name, parts, levels, hulls }: Delivery,
  asset: Asset,
  oriented: (list: readonly NamedMesh[]) => NamedMesh[],
): MeshFile[] {
  const library = `${name}.mtl`;
  const most = Math.max(0, ...[...levels.values()].map((list) => list.length));
  const files: MeshFile[] = [];
  const add = (file: string, meshes: NamedMesh[], own: NamedMesh[]) =>
    files.unshift({
      name: `${file}.obj`,
      bytes: writeObj([...meshes, ...own], library),
      written: {
        parts: meshes.map(({ name, mesh }) => ({
          name: name.replace(/\s+/g, "_"),
          mesh,
        })),
        hulls: own.length,
        uvs: meshes.every(({ mesh }) => mesh.uvs),
        materials: true,
        parted: true,
      },
    });
  const first = oriented(parts);
  add(name, first, oriented(hullMeshes(hulls)));
  for (let l = 0; l < most; l++) {
    const meshes = [...levels].flatMap(([part, list]) =>
      list[l] ? [{ name: part, mesh: list[l] }] : [],
    );
    add(levelName(name, l + 1), oriented(meshes), []);
  }
  const plain = new Set(first.flatMap(({ mesh }) => mesh.materials));
  if (hulls.length) plain.add("hull");
  for (const { material } of asset.looks) plain.delete(material);
  files.unshift({
    name: library,
    bytes: writeMtl([
      ...asset.looks,
      ...[...plain].map((material) => ({ material, colour: "#b8b2a6" })),
    ]),
    written: null,
  });
  return files;
}
