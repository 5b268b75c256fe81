import {
  ArrayUnique,
  IsArray,
  IsBoolean,
  IsIn,
  IsInt,
  IsNumber,
  IsOptional,
  IsString,
  Max,
  MaxLength,
  Min,
  validateSync,
} from "class-validator";
import type { Asset } from "./asset";
import type { GivenFile } from "../formats/index";
import type { Input } from "./stale";
import type { Stage } from "./stages";
import type { Context } from "../base/context";
import { OptionsError } from "../base/errors";

/** How one option of an operation is shown, checked and read from a command line. */
export interface FieldSpec {
  /**
   * `parts` is a list of part names, empty for all; `edges` a list of `part:vertex-vertex`; `faces` a list of
   * `part:ranges`, ranges as in core/base/ranges.ts; `hulls` a list of names of hulls; `choices` a list out of the
   * choices.
   */
  kind:
    | "integer"
    | "number"
    | "choice"
    | "choices"
    | "flag"
    | "text"
    | "parts"
    | "edges"
    | "faces"
    | "hulls";
  label: string;
  help: string;
  unit?: string;
  min?: number;
  max?: number;
  step?: number;
  choices?: readonly { value: string; label: string }[];
  /**
   * What an empty number or list stands for, in words where the option's default is it, or a figure of the brief that is
   * taken then. An option whose default is null has no value then.
   */
  empty?: string;
  brief?: "triangles" | "hulls" | "sheetSize" | "sheets" | "padding";
  /** Shown only when the artist unfolds the rest. */
  folded?: boolean;
  /**
   * Where a form takes the value from; parts, edges and faces come from what is chosen unless said otherwise. null for
   * what no form asks for or takes: it is left to the command line.
   */
  from?: FieldSource | null;
  /** Whether a form asks for the value where it can't be taken from there. */
  orAsked?: boolean;
}

/** What of the view the value of an option follows from; the camera's is a unit vector towards the eye. */
export type FieldSource =
  | "parts"
  | "hidden parts"
  | "edges"
  | "source edges"
  | "hulls"
  | "faces"
  | "mesh of faces"
  | "camera x"
  | "camera y"
  | "camera z";

export interface Field extends FieldSpec {
  name: string;
  default: unknown;
}

/** Kinds of values that are chosen in the view. */
const CHOSEN = ["parts", "edges", "faces", "hulls"] as const;

const specs = new WeakMap<object, Map<string, FieldSpec>>();

/** Declares an option: the form, the API's check, the command line flag and the history all come from it. */
export function field(spec: FieldSpec): PropertyDecorator {
  return (target, key) => {
    const name = String(key);
    if (!specs.has(target)) specs.set(target, new Map());
    specs.get(target)!.set(name, spec);
    for (const rule of rulesOf(spec)) rule(target, name);
  };
}

function rulesOf(spec: FieldSpec): PropertyDecorator[] {
  const range = [
    ...(spec.min === undefined ? [] : [Min(spec.min)]),
    ...(spec.max === undefined ? [] : [Max(spec.max)]),
  ];
  switch (spec.kind) {
    case "integer":
      return [IsOptional(), IsInt(), ...range];
    case "number":
      return [
        IsOptional(),
        IsNumber({ allowNaN: false, allowInfinity: false }),
        ...range,
      ];
    case "choice":
      return [IsIn(spec.choices!.map((choice) => choice.value))];
    case "flag":
      return [IsBoolean()];
    case "text":
      return [IsString(), MaxLength(spec.max ?? 200)];
    case "choices":
      return [
        IsArray(),
        ArrayUnique(),
        IsIn(
          spec.choices!.map((choice) => choice.value),
          { each: true },
        ),
      ];
    case "parts":
    case "edges":
    case "hulls":
    case "faces":
      return [
        IsArray(),
        ArrayUnique(),
        IsString({ each: true }),
        MaxLength(spec.kind === "faces" ? 4_000_000 : 300, { each: true }),
      ];
  }
}

/** What an operation may ask of whoever runs it. */
export interface OperationContext extends Context {
  /** Files that came with the call, for operations that bring files in. */
  files?: readonly GivenFile[];
  /** Another asset of the store, where the host has one. */
  assetById?(id: number): Promise<Asset>;
}

/** A typed report: figures by name, plain values only, so that it can be stored, shown and printed. */
export type Report = Record<string, unknown>;

export interface OperationResult {
  asset: Asset;
  report: Report;
  /** The one figure for the route card, such as "4 980 of 5 000". */
  headline: string;
  /** Files to hand out, such as the archive of Ship. */
  files?: { name: string; bytes: Uint8Array }[];
}

/** Everything that changes an asset is one of these. See docs/architecture.md. */
export interface Operation<O extends object = object> {
  id: string;
  stage: Stage;
  title: string;
  /** One sentence on what it does. */
  about: string;
  /** `instant` answers within the request; `heavy` is queued as a job. */
  runs: "instant" | "heavy";
  /** What a lone file given on the command line stands for, and what is written to --out. */
  takes: "source" | "game" | "both";
  /** What it asks for besides the asset: files, or another asset. */
  asks?: "meshes" | "pictures" | "asset" | "cage" | "project";
  /** Whether the stage's result is this operation's (and so goes stale and can be brought up to date). */
  makesResult: boolean;
  /** Only hands files out: it makes no revision. */
  changesNothing?: boolean;
  /** Looks without making the stage's result: the report is kept under the operation's id. */
  keepsReport?: boolean;
  /**
   * Renews the figures of the stage's result without becoming what is redone. Where the stage has no result yet, the
   * operation of this id is what will be redone.
   */
  updates?: string;
  /** With `refreshes`: what is redone takes this operation's options where it has the same ones. */
  passesOptions?: boolean;
  /** Options that are meant for one run: what is redone takes them as they are by themselves. */
  forOnce?: readonly string[];
  /** What its result is made from, where that is not what the stage's results are made from; may hang on its options. */
  madeFrom?: readonly Input[] | ((options: O) => readonly Input[]);
  /** What figures of its report hang on besides: they are told only as long as that is the same. */
  tellsOf?: readonly Input[];
  /** Stages whose result stays true although their inputs change by this operation. */
  preserves?: readonly Stage[];
  /** Options as they were called before, in what was recorded then, by their names and values of today. */
  formerly?(raw: Readonly<Record<string, unknown>>): Record<string, unknown>;
  Options: new () => O;
  run(
    asset: Asset,
    options: O,
    context: OperationContext,
  ): Promise<OperationResult> | OperationResult;
}

/** Checks a declaration at start and keeps its types together. */
export function defineOperation<O extends object>(
  operation: Operation<O>,
): Operation<O> {
  if (!operation.id.startsWith(`${operation.stage}/`))
    throw new Error(`${operation.id} is not in stage ${operation.stage}`);
  return operation;
}

/** The options of an operation with their defaults, in the order of declaration. */
export function fieldsOf(operation: Pick<Operation, "Options">): Field[] {
  const options = new operation.Options() as Record<string, unknown>;
  const found: [string, FieldSpec][] = [];
  // A class's own options first, then those it shares with others.
  for (
    let at = operation.Options.prototype as object | null;
    at;
    at = Object.getPrototypeOf(at) as object | null
  )
    for (const [name, spec] of specs.get(at) ?? [])
      if (!found.some(([known]) => known === name)) found.push([name, spec]);
  return found.map(([name, spec]: [string, FieldSpec]) => ({
    ...spec,
    from:
      spec.from === undefined
        ? CHOSEN.find((kind) => kind === spec.kind)
        : spec.from,
    name,
    default: options[name],
  }));
}

/**
 * Turns untrusted values into the options of an operation.
 * @throws OptionsError naming every option that is unknown or out of range
 */
export function readOptions<O extends object>(
  operation: Pick<Operation<O>, "id" | "Options" | "formerly">,
  raw: unknown,
): O {
  if (
    raw !== undefined &&
    (typeof raw !== "object" || raw === null || Array.isArray(raw))
  )
    throw new OptionsError(operation.id, { options: "must be an object" });
  const options = new operation.Options();
  const known = new Set(fieldsOf(operation).map((each) => each.name));
  const wrong: Record<string, string> = {};
  const given = { ...raw } as Record<string, unknown>;
  const today = operation.formerly?.(given) ?? given;
  for (const [key, value] of Object.entries(today)) {
    if (!known.has(key)) wrong[key] = "there is no such option";
    // An empty field keeps the default.
    else if (value !== null && value !== undefined)
      (options as Record<string, unknown>)[key] = value;
  }
  // The validator takes a class without any rule for a mistake.
  for (const problem of known.size ? validateSync(options) : [])
    wrong[problem.property] = Object.values(problem.constraints ?? {}).join(
      ", ",
    );
  if (Object.keys(wrong).length) throw new OptionsError(operation.id, wrong);
  return options;
}
