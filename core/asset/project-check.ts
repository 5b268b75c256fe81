import { SEEN_KINDS } from "../base/pictures";
import type { Json } from "../formats/json-check";
import { JsonCheck } from "../formats/json-check";
import { CONTACT_NAMES, isContact } from "../mesh/contacts";
import { HULL_KINDS } from "../mesh/hull";
import type { StreamName } from "../mesh/streams";
import { STREAM_NAMES, STREAMS } from "../mesh/streams";
import { DEFAULT_BRIEF } from "./asset";
import type { AssetDocument, StreamRef } from "./document";
import { RECORD_STREAMS } from "./document";
import { STAGES } from "./stages";

type Kind = StreamRef["kind"];

const BYTES: Record<Kind, number> = { f32: 4, u32: 4, i32: 4, u16: 2, u8: 1 };
/** Streams that are no bytes. */
const KINDS: Partial<Record<StreamName, Kind>> = {
  uvs: "f32",
  normals: "f32",
  cage: "f32",
  rounds: "u16",
  faceMaterials: "u16",
  ids: "u16",
};
const COLOUR = /^#[0-9a-f]{6}$/i;

/**
 * Looks at a document that comes from outside: everything that operations rely on without a look of their own, every
 * stream there, of its kind and as long as what it hangs on, every index within its list.
 * @param streams bytes by their hash
 * @throws MeshFormatError naming the place as a JSON path
 */
export function checkDocument(
  file: string,
  document: unknown,
  streams: ReadonlyMap<string, Uint8Array>,
): AssetDocument {
  return new DocumentCheck(file, streams).document(document);
}

class DocumentCheck extends JsonCheck {
  constructor(
    file: string,
    private readonly streams: ReadonlyMap<string, Uint8Array>,
  ) {
    super(file);
  }

  document(value: unknown): AssetDocument {
    const json = this.object(value, "document");
    this.text(json.name, "name");
    this.brief(this.object(json.brief, "brief"));
    const parts = this.list(json, "parts");
    const names = new Set<string>();
    parts.forEach((part, p) => {
      const path = `parts[${p}]`;
      const name = this.text(part.name, `${path}.name`);
      if (names.has(name))
        this.fail(`${path}.name`, "another part is called so");
      names.add(name);
      this.part(part, path);
    });
    parts.forEach((part, p) => {
      if (part.repeat === null || part.repeat === undefined) return;
      const path = `parts[${p}].repeat`;
      const repeat = this.object(part.repeat, path);
      if (!names.has(String(repeat.of)) || repeat.of === part.name)
        this.fail(`${path}.of`, "there is no such part");
      this.numbers(repeat.matrix ?? null, `${path}.matrix`, 16);
    });
    for (const list of ["maps", "aside"])
      this.list(json, list).forEach((map, m) => this.map(map, `${list}[${m}]`));
    this.list(json, "looks").forEach((look, l) => {
      this.text(look.material, `looks[${l}].material`);
      this.colour(look.colour, `looks[${l}].colour`);
      const pictures = this.object(look.pictures ?? {}, `looks[${l}].pictures`);
      for (const [use, picture] of Object.entries(pictures)) {
        const path = `looks[${l}].pictures.${use}`;
        this.stream(this.object(picture, path).bytes, `${path}.bytes`, "u8");
      }
    });
    this.list(json, "palette").forEach((entry, i) =>
      this.colour(entry.colour, `palette[${i}].colour`),
    );
    this.list(json, "references").forEach((each, i) =>
      this.stream(each.bytes, `references[${i}].bytes`, "u8"),
    );
    if (json.painted)
      this.stream(
        this.object(json.painted, "painted").bytes,
        "painted.bytes",
        "u8",
      );
    if (json.record) this.record(this.object(json.record, "record"));
    this.results(this.object(json.results ?? {}, "results"), "results", STAGES);
    this.results(this.object(json.reports ?? {}, "reports"), "reports");
    return json as unknown as AssetDocument;
  }

  private text(value: unknown, path: string): string {
    if (typeof value !== "string") this.fail(path, "a name is expected");
    return value as string;
  }

  private colour(value: unknown, path: string): void {
    if (typeof value !== "string" || !COLOUR.test(value))
      this.fail(path, "a colour such as #336699 is expected");
  }

  private brief(brief: Json): void {
    for (const [name, standard] of Object.entries(DEFAULT_BRIEF)) {
      const value = brief[name] ?? standard;
      const path = `brief.${name}`;
      if (
        typeof standard === "number" &&
        !(Number(value) >= 0 && Number(value) < 1e9)
      )
        this.fail(path, "a number from 0 up is expected");
      if (name === "profile" && typeof value === "object") {
        this.profile(this.object(value, path), path);
        continue;
      }
      if (typeof standard === "string" && typeof value !== "string")
        this.fail(path, "words are expected");
      if (Array.isArray(standard))
        this.indices(value, path, Number.MAX_SAFE_INTEGER);
    }
  }

  private profile({ name, upAxis, unit, greenUp, ship }: Json, path: string) {
    this.text(name, `${path}.name`);
    if (upAxis !== "y" && upAxis !== "z")
      this.fail(`${path}.upAxis`, '"y" or "z" is expected');
    if (typeof unit !== "number" || !(unit > 0))
      this.fail(`${path}.unit`, "metres are expected");
    if (typeof greenUp !== "boolean")
      this.fail(`${path}.greenUp`, "true or false is expected");
    // What Ship is told is looked at by Ship.
    if (ship !== undefined) this.object(ship, `${path}.ship`);
  }

  private part(part: Json, path: string): void {
    this.colour(part.colour, `${path}.colour`);
    for (const name of [
      "source",
      "game",
      "previousUnwrap",
      "dense",
      "light",
      "tried",
    ])
      if (part[name]) this.mesh(part[name], `${path}.${name}`);
    this.list(part, "levels", `${path}.levels`).forEach((level, l) =>
      this.mesh(level, `${path}.levels[${l}]`),
    );
    if (part.settled) {
      const settled = this.object(part.settled, `${path}.settled`);
      if (settled.mesh) this.mesh(settled.mesh, `${path}.settled.mesh`);
      if (settled.faces)
        this.stream(settled.faces, `${path}.settled.faces`, "u32");
    }
    this.list(part, "hulls", `${path}.hulls`).forEach((hull, h) => {
      const at = `${path}.hulls[${h}]`;
      this.text(hull.name, `${at}.name`);
      if (!HULL_KINDS.some((kind) => kind === hull.kind))
        this.fail(`${at}.kind`, `${HULL_KINDS.join(", ")} are known`);
      if (hull.contact !== undefined && !isContact(hull.contact))
        this.fail(`${at}.contact`, `${CONTACT_NAMES.join(", ")} are known`);
      if (
        hull.level !== undefined &&
        !(Number.isInteger(hull.level) && (hull.level as number) > 0)
      )
        this.fail(
          `${at}.level`,
          "a level of detail is a whole number from 1 on",
        );
      if (hull.byHand !== undefined && hull.byHand !== true)
        this.fail(`${at}.byHand`, "is true where it is there");
      const places = this.stream(hull.positions, `${at}.positions`, "f32");
      this.finite(places, `${at}.positions`);
      const corners = this.stream(hull.triangles, `${at}.triangles`, "u32");
      if (places.length % 12 || corners.length % 12)
        this.fail(at, "its corners or triangles are not whole");
      this.within(corners, places.length / 12, `${at}.triangles`);
    });
  }

  private mesh(value: unknown, path: string): void {
    const mesh = this.object(value, path);
    const refs = this.object(mesh.streams, `${path}.streams`);
    const at = (name: string) => `${path}.streams.${name}`;
    const places = this.stream(refs.positions, at("positions"), "f32");
    this.finite(places, at("positions"));
    const starts = this.stream(refs.faceStarts, at("faceStarts"), "u32");
    const corners = this.stream(refs.corners, at("corners"), "u32");
    if (places.length % 12)
      this.fail(at("positions"), "it ends within a corner");
    this.within(corners, places.length / 12, at("corners"));
    const count = corners.length / 4;
    const faces = starts.length / 4 - 1;
    const first = u32(starts);
    if (faces < 0 || first[0] !== 0 || first[faces] !== count)
      this.fail(at("faceStarts"), "faces do not take up the corners");
    for (let f = 0; f < faces; f++)
      if (first[f + 1] < first[f] + 3)
        this.fail(at("faceStarts"), `face ${f} has fewer than three corners`);
    for (const name of STREAM_NAMES) {
      if (!refs[name]) continue;
      const { on, width } = STREAMS[name];
      const kind = KINDS[name] ?? "u8";
      const bytes = this.stream(refs[name], at(name), kind);
      const wanted = width * (on === "faces" ? faces : count);
      if (bytes.length !== BYTES[kind] * wanted)
        this.fail(at(name), `${wanted} numbers are expected`);
      if (kind === "f32") this.finite(bytes, at(name));
    }
    const { materials } = mesh;
    if (!Array.isArray(materials) || !materials.length)
      this.fail(`${path}.materials`, "at least one name is expected");
    // Files may call materials whatever they like.
    (materials as unknown[]).forEach((each, i) =>
      this.text(each, `${path}.materials[${i}]`),
    );
    if (refs.faceMaterials) {
      const given = this.stream(refs.faceMaterials, at("faceMaterials"), "u16");
      const most = (materials as unknown[]).length;
      if (new Uint16Array(given.slice().buffer).some((each) => each >= most))
        this.fail(at("faceMaterials"), `there are only ${most} materials`);
    }
  }

  private map(map: Json, path: string): void {
    const width = this.whole(map.width, `${path}.width`, 1);
    const height = this.whole(map.height, `${path}.height`, 1);
    if (![1, 3].includes(map.channels as number))
      this.fail(`${path}.channels`, "1 or 3 are expected");
    if (![8, 16].includes(map.depth as number))
      this.fail(`${path}.depth`, "8 or 16 are expected");
    if (!SEEN_KINDS.some((kind) => kind === map.kind))
      this.fail(`${path}.kind`, "there is no such map");
    for (const name of ["from", "laidFor"])
      if (map[name] !== undefined) this.text(map[name], `${path}.${name}`);
    if (map.tile !== undefined) this.whole(map.tile, `${path}.tile`, 0);
    const kind = map.depth === 16 ? "u16" : "u8";
    const pixels = this.stream(map.pixels, `${path}.pixels`, kind);
    if (pixels.length !== width * height * Number(map.channels) * BYTES[kind])
      this.fail(`${path}.pixels`, "there are not as many as the map is large");
  }

  private record(record: Json): void {
    const refs = this.object(record.streams, "record.streams");
    for (const name of RECORD_STREAMS) {
      const ref = this.object(refs[name], `record.streams.${name}`);
      this.stream(ref, `record.streams.${name}`, ref.kind as Kind);
    }
    this.numbers(record.centre ?? null, "record.centre", 3);
    this.list(record, "parts", "record.parts");
  }

  private results(
    results: Json,
    path: string,
    known?: readonly string[],
  ): void {
    for (const [name, value] of Object.entries(results)) {
      if (known && !known.includes(name))
        this.fail(`${path}.${name}`, "there is no such stage");
      const result = this.object(value, `${path}.${name}`);
      for (const field of ["options", "report", "madeFrom"])
        this.object(result[field], `${path}.${name}.${field}`);
      for (const field of ["operation", "headline"])
        if (typeof result[field] !== "string")
          this.fail(`${path}.${name}.${field}`, "words are expected");
    }
  }

  /** The bytes of a stream, as many as it says. */
  private stream(value: unknown, path: string, kind: Kind): Uint8Array {
    const ref = this.object(value, path);
    if (ref.kind !== kind || !(kind in BYTES))
      this.fail(`${path}.kind`, `${kind} is expected`);
    const bytes =
      typeof ref.hash === "string" ? this.streams.get(ref.hash) : undefined;
    if (!bytes) return this.fail(path, "its bytes are not in the archive");
    if (bytes.length !== Number(ref.length) * BYTES[kind])
      this.fail(`${path}.length`, `there are ${bytes.length} bytes`);
    return bytes;
  }

  private finite(bytes: Uint8Array, path: string): void {
    const values = new Float32Array(bytes.slice().buffer);
    const at = values.findIndex((x) => !Number.isFinite(x));
    if (at >= 0) this.fail(path, `number ${at} is none`);
  }

  private within(bytes: Uint8Array, count: number, path: string): void {
    const at = u32(bytes).findIndex((x) => x >= count);
    if (at >= 0)
      this.fail(
        path,
        `number ${at} names corner ${u32(bytes)[at]} of ${count}`,
      );
  }
}

const u32 = (bytes: Uint8Array) => new Uint32Array(bytes.slice().buffer);
