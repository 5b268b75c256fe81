import type { Asset } from "../../asset/asset";
import { profileOf } from "../../asset/profile";
import { totalTriangles } from "../../asset/parts";
import type { Context } from "../../base/context";
import { spanOf } from "../../base/context";
import { ArnikError } from "../../base/errors";
import { tellsOfBake } from "../../base/pictures";
import { spaced } from "../../base/wording";
import { tilesUsed, udimOf } from "../../mesh/tiles";
import { checkList, levelTriangles, splitVertices } from "./check-list";
import { deliveredPictures } from "./delivered-pictures";
import { deliveredParts, deliveriesOf } from "./delivery";
import type { ReadBack } from "./read-back";
import { readBack } from "./read-back";
import type { ShippedFile } from "./mesh-files";
import { meshFiles } from "./mesh-files";
import { namesBy } from "./names";
import { reportPage } from "./report-page";
import type { ShipOptions } from "./ship-options";
import type { ValidatorCounts } from "./validate";
import { validateGlb } from "./validate";

/**
 * The files of a delivery, each read again and compared with the asset, and the check list that they are held against.
 * In one piece: a list of files, each named where it is written.
 * @param views pictures for the page, from a view, by the names of the shots
 * @returns no files but the report where a check stops the delivery, unless that is insisted on
 * @throws ArnikError where the validator finds an error in a GLB
 */
export async function shipFiles(
  asset: Asset,
  options: ShipOptions,
  context: Pick<Context, "progress" | "check">,
  views: ReadonlyMap<string, Uint8Array> | null = null,
) {
  const names = namesBy("ship/archive", asset.name, options);
  const profile = profileOf(asset.brief);
  const delivered = {
    parts: deliveredParts(asset, {
      parts: options.parts,
      levels: options.levels !== "none",
      hulls: options.hullsAs !== "none",
    }),
  };
  const games = delivered.parts.flatMap(({ game }) => game ?? []);
  const deliveries = deliveriesOf(
    delivered.parts,
    {
      ...options,
      point: [options.pointX, options.pointY, options.pointZ].map(
        (x) => x / 1000,
      ) as unknown as [number, number, number],
    },
    names,
  );
  const tiles = tilesUsed(games);
  // What became of the rays is for whoever bakes.
  const maps = asset.maps.filter(({ kind }) => !tellsOfBake(kind));
  const pictures = await deliveredPictures(
    asset,
    options,
    maps,
    games,
    tiles,
    names,
    spanOf(context, 0, 0.4),
  );
  const files: ShippedFile[] = [...pictures.files];
  const common = { asset, options, names, images: pictures.inside, tiles };
  const validator: ValidatorCounts = { errors: 0, warnings: 0, infos: 0 };
  const back: ReadBack[] = [];
  for (const [d, delivery] of deliveries.entries()) {
    context.progress(
      0.4 + (0.4 * d) / deliveries.length,
      `writing ${delivery.name}`,
    );
    const meshes = await meshFiles(delivery, common);
    for (const { name: file, bytes, written } of meshes) {
      context.check();
      files.unshift({ name: file, bytes });
      if (/\.gl(b|tf)$/.test(file)) {
        const found = await validateGlb(file, bytes, {
          tangents: options.tangents,
          ktx2: options.pictures === "ktx2",
        });
        for (const kind of ["errors", "warnings", "infos"] as const)
          validator[kind] += found[kind];
      }
      if (written) back.push(await readBack(file, bytes, written));
    }
  }
  checkNames(files);
  const checks = checkList(asset, delivered, validator, back, options.tangents);
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
    ...(options.page && { pictures: views ? "from the view" : "drawn" }),
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
        `${map.kind}${maps.some(({ tile }) => tile) ? ` ${udimOf(map.tile ?? 0)}` : ""} ${map.width}×${map.height}, ${map.depth} bit${map.from ? ", brought in" : ""}`,
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
        meshes: games,
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
        pictures: views,
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

/** @throws ArnikError where patterns give two files one name */
function checkNames(files: readonly ShippedFile[]): void {
  const known = new Set<string>();
  for (const { name } of files) {
    // Many file systems don't tell capitals apart.
    if (known.has(name.toLowerCase()))
      throw new ArnikError(
        `two files would be called ${name}: change the patterns of names`,
      );
    known.add(name.toLowerCase());
  }
}
