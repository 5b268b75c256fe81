import { sha256 } from "#sha256";
import { decode } from "fast-png";
import type { Context } from "../base/context";
import { spanOf } from "../base/context";
import { ArnikError } from "../base/errors";
import type { ArchivedFile } from "../formats/archive";
import { unzipFiles, zipFiles } from "../formats/archive";
import { writePng } from "../formats/png";
import { safeName } from "../formats/raw-mesh";
import type { HashedBytes, ShownMesh } from "../formats/stream-glb";
import { readStreamGlb, writeStreamGlb } from "../formats/stream-glb";
import type { Mesh } from "../mesh/mesh";
import type { Asset } from "./asset";
import type { MeshDocument } from "./document";
import { meshesOf, streamsOf, toDocument } from "./document";
import { checkDocument } from "./project-check";
import { fillDocument, fromDocument } from "./read-document";

/** What a project archive says it is. */
const FORMAT = "arnik project";
const VERSION = 1;
const HEAD = "project.json";

/**
 * An asset as one archive: meshes as GLB, maps as PNG, the rest as JSON and plain bytes; docs/formats.md says every
 * field. The same asset gives the same bytes.
 */
export function packProject(
  asset: Asset,
  context: Pick<Context, "check" | "progress">,
): Uint8Array {
  const bytesOf = new Map<string, Uint8Array>();
  const document = toDocument(asset, (hash, bytes) => bytesOf.set(hash, bytes));
  const files: ArchivedFile[] = [];
  const add = (name: string, bytes: Uint8Array) => files.push({ name, bytes });
  const packed = new Set<string>();
  asset.parts.forEach((part, p) => {
    context.check();
    context.progress((0.4 * p) / asset.parts.length, `packing ${part.name}`);
    const own = document.parts[p];
    const streams = meshesOf(own).flatMap(({ streams }) =>
      Object.values(streams).flatMap((ref) => ref ?? []),
    );
    streams.push(
      ...own.hulls.flatMap(({ positions, triangles }) => [
        positions,
        triangles,
      ]),
    );
    const shown = [
      shownAs("source", part.source, own.source),
      shownAs("game", part.game, own.game),
      ...part.levels.map((mesh, l) =>
        shownAs(`level ${l + 1}`, mesh, own.levels[l]),
      ),
    ].flat();
    if (!streams.length) return;
    const number = String(p + 1).padStart(3, "0");
    add(
      `meshes/${number} ${safeName(part.name, "part")}.glb`,
      writeStreamGlb(
        streams.map(({ hash }) => ({ hash, bytes: bytesOf.get(hash)! })),
        shown,
      ),
    );
    for (const { hash } of streams) packed.add(hash);
  });
  const maps = [...asset.maps, ...asset.aside];
  const told = [...document.maps, ...document.aside];
  maps.forEach((map, m) => {
    context.check();
    context.progress(
      0.4 + (0.3 * m) / maps.length,
      `packing the ${map.kind} map`,
    );
    const { hash } = told[m].pixels;
    if (packed.has(hash)) return;
    const number = String(m + 1).padStart(3, "0");
    add(`maps/${number} ${map.kind}.png`, writePng(map));
    packed.add(hash);
  });
  for (const [hash, bytes] of bytesOf)
    if (!packed.has(hash)) add(`data/${hash}.bin`, bytes);
  const head = JSON.stringify(
    { format: FORMAT, version: VERSION, document },
    null,
    1,
  );
  return zipFiles(
    [{ name: HEAD, bytes: new TextEncoder().encode(head) }, ...files],
    spanOf(context, 0.7, 1),
  );
}

/**
 * The asset in a project archive. Every stream is held against its hash, and the document against what operations
 * rely on, before anything is taken from it.
 * @throws ArnikError naming the file and the place in it
 */
export function unpackProject(
  file: string,
  archive: Uint8Array,
  check: () => void = () => {},
): Asset {
  const files = unzipFiles(file, archive, check);
  const head = files[HEAD];
  if (!head)
    throw new ArnikError(`${file}: it is no project: ${HEAD} is missing`);
  let told: { format?: unknown; version?: unknown; document?: unknown };
  try {
    told = JSON.parse(new TextDecoder().decode(head)) as typeof told;
  } catch {
    throw new ArnikError(`${file}: ${HEAD} is no JSON`);
  }
  if (told?.format !== FORMAT)
    throw new ArnikError(`${file}: ${HEAD} is not of an ${FORMAT}`);
  if (told.version !== VERSION)
    throw new ArnikError(
      `${file}: it is a project of version ${String(told.version)}; version ${VERSION} is read`,
    );
  const streams = new Map<string, Uint8Array>();
  const take = ({ hash, bytes }: HashedBytes) => streams.set(hash, bytes);
  for (const [name, bytes] of Object.entries(files)) {
    check();
    const at = `${file}: ${name}`;
    if (name.startsWith("meshes/")) readStreamGlb(at, bytes).forEach(take);
    if (name.startsWith("data/"))
      take({ hash: name.replace(/^data\/|\.bin$/g, ""), bytes });
    if (name.startsWith("maps/")) take(pixelsOf(at, bytes));
  }
  const document = checkDocument(`${file}: ${HEAD}`, told.document, streams);
  const held = new Set(
    streamsOf(fillDocument(document)).map(({ hash }) => hash),
  );
  for (const hash of held) {
    check();
    if (sha256(streams.get(hash)!) !== hash)
      throw new ArnikError(
        `${file}: stream ${hash.slice(0, 8)} is damaged: its bytes are others than when it was packed`,
      );
  }
  return fromDocument(document, (hash) => streams.get(hash)!);
}

function pixelsOf(at: string, png: Uint8Array): HashedBytes {
  try {
    const { data } = decode(png);
    const bytes = new Uint8Array(data.buffer, data.byteOffset, data.byteLength);
    return { hash: sha256(bytes), bytes };
  } catch {
    throw new ArnikError(`${at}: it is no PNG, or a damaged one`);
  }
}

const shownAs = (
  name: string,
  mesh: Mesh | null,
  document: MeshDocument | null,
): ShownMesh[] =>
  mesh?.corners.length
    ? [{ name, mesh, positions: document!.streams.positions!.hash }]
    : [];
