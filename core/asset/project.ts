import { sha256 } from "#sha256";
import { decode } from "fast-png";
import { unzipSync, zipSync } from "fflate";
import { ArnikError } from "../base/errors";
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
/** Bytes that an archive may hold unpacked: what is larger is not read, whatever it promises. */
const LARGEST = 4 * 2 ** 30;
/** Archives have the same bytes whenever they are made. */
const MADE = new Date(2020, 0, 1);

/** Whether a file is a project archive by its name. */
export const isProject = (name: string) => /\.zip$/i.test(name);

/**
 * An asset as one archive: meshes as GLB, maps as PNG, the rest as JSON and plain bytes; docs/formats.md says every
 * field. The same asset gives the same bytes.
 */
export function packProject(asset: Asset, check: () => void): Uint8Array {
  const bytesOf = new Map<string, Uint8Array>();
  const document = toDocument(asset, (hash, bytes) => bytesOf.set(hash, bytes));
  const files: Record<string, Uint8Array> = {};
  const packed = new Set<string>();
  asset.parts.forEach((part, p) => {
    check();
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
    files[`meshes/${number} ${safeName(part.name, "part")}.glb`] =
      writeStreamGlb(
        streams.map(({ hash }) => ({ hash, bytes: bytesOf.get(hash)! })),
        shown,
      );
    for (const { hash } of streams) packed.add(hash);
  });
  asset.maps.forEach((map, m) => {
    check();
    const { hash } = document.maps[m].pixels;
    if (packed.has(hash)) return;
    const number = String(m + 1).padStart(3, "0");
    files[`maps/${number} ${map.kind}.png`] = writePng(map);
    packed.add(hash);
  });
  for (const [hash, bytes] of bytesOf)
    if (!packed.has(hash)) files[`data/${hash}.bin`] = bytes;
  check();
  const head = JSON.stringify(
    { format: FORMAT, version: VERSION, document },
    null,
    1,
  );
  return zipSync(
    Object.fromEntries(
      [
        [HEAD, new TextEncoder().encode(head)] as const,
        ...Object.entries(files),
      ]
        // Pictures are packed already.
        .map(([name, bytes]) => [
          name,
          [bytes, { mtime: MADE, level: name.endsWith(".png") ? 0 : 6 }],
        ]),
    ),
  );
}

/**
 * The asset in a project archive. Every stream is held against its hash, and the document against what operations
 * rely on, before anything is taken from it.
 * @throws ArnikError naming the file and the place in it
 */
export function unpackProject(file: string, archive: Uint8Array): Asset {
  const files = entriesOf(file, archive);
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
  for (const hash of held)
    if (sha256(streams.get(hash)!) !== hash)
      throw new ArnikError(
        `${file}: stream ${hash.slice(0, 8)} is damaged: its bytes are others than when it was packed`,
      );
  return fromDocument(document, (hash) => streams.get(hash)!);
}

/** What lies in an archive, never more than is read. */
function entriesOf(
  file: string,
  archive: Uint8Array,
): Record<string, Uint8Array> {
  let sum = 0;
  try {
    return unzipSync(archive, {
      filter({ originalSize }) {
        sum += originalSize;
        if (sum > LARGEST)
          throw new ArnikError(
            `${file}: it holds more than 4 GB unpacked, which is not read`,
          );
        return true;
      },
    });
  } catch (error) {
    if (error instanceof ArnikError) throw error;
    throw new ArnikError(`${file}: it is no archive, or a damaged one`);
  }
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
