import { MeshFormatError } from "../base/errors";

export type Json = Record<string, unknown>;

/** Looks at a JSON that nobody is to be trusted with: every refusal names the file and the path. */
export class JsonCheck {
  constructor(protected readonly file: string) {}

  protected fail(path: string, what: string): never {
    throw new MeshFormatError(this.file, `${path}: ${what}`);
  }

  protected object(value: unknown, path: string): Json {
    if (!value || typeof value !== "object" || Array.isArray(value))
      this.fail(path, "an object is expected");
    return value as Json;
  }

  protected list(json: Json, name: string, path = name): Json[] {
    const value = json[name];
    if (value === undefined) return [];
    if (!Array.isArray(value)) this.fail(path, "a list is expected");
    return value.map((each, i) => this.object(each, `${path}[${i}]`));
  }

  protected whole(value: unknown, path: string, least: number): number {
    if (!Number.isSafeInteger(value) || (value as number) < least)
      this.fail(path, `a whole number from ${least} up is expected`);
    return value as number;
  }

  protected index(value: unknown, path: string, length: number): number {
    const at = this.whole(value, path, 0);
    if (at >= length)
      this.fail(path, `it names number ${at}, but there are ${length}`);
    return at;
  }

  protected indices(value: unknown, path: string, length: number): number[] {
    if (value === undefined) return [];
    if (!Array.isArray(value)) this.fail(path, "a list is expected");
    return value.map((each, i) => this.index(each, `${path}[${i}]`, length));
  }

  protected numbers(
    value: unknown,
    path: string,
    count: number,
  ): number[] | undefined {
    if (value === undefined) return undefined;
    if (
      !Array.isArray(value) ||
      value.length !== count ||
      !value.every((each) => Number.isFinite(each))
    )
      this.fail(path, `${count} numbers are expected`);
    return value as number[];
  }

  /** What an object has under the name of an extension. */
  protected extension(holder: Json, name: string, path: string): Json | null {
    if (holder.extensions === undefined) return null;
    const all = this.object(holder.extensions, `${path}.extensions`);
    return all[name] === undefined
      ? null
      : this.object(all[name], `${path}.extensions.${name}`);
  }
}

/** A value of the file as it is shown in a refusal. */
export function shown(value: unknown): string {
  if (value === undefined || value === null) return "nothing";
  if (typeof value === "object") return "a structure";
  return typeof value === "string"
    ? `"${value.slice(0, 20)}"`
    : String(value as number | boolean);
}

/** A text of the file, empty where it is none. */
export const text = (value: unknown) =>
  typeof value === "string" ? value : "";
