import { readFileSync } from "node:fs";
import ts from "typescript";
import { describe, expect, it } from "vitest";
import { sourceFiles } from "./source-files";

interface Exported {
  where: string;
  doc: string;
  /** Types of what goes in and comes out. */
  signature: string;
}

/** The exported functions of a module, with the text of their doc comments. */
function exportedFunctions(file: string, text: string): Exported[] {
  const source = ts.createSourceFile(file, text, ts.ScriptTarget.Latest, true);
  return source.statements.flatMap((statement) => {
    const exported =
      ts.canHaveModifiers(statement) &&
      ts
        .getModifiers(statement)
        ?.some(({ kind }) => kind === ts.SyntaxKind.ExportKeyword);
    if (!exported) return [];
    const doc = ts
      .getJSDocCommentsAndTags(statement)
      .map((each) => each.getText())
      .join("\n");
    const of = (
      name: string,
      { parameters, type }: ts.FunctionLikeDeclaration,
    ): Exported[] => [
      {
        where: `${file} ${name}`,
        doc,
        signature: [...parameters.map((each) => each.type), type]
          .map((each) => each?.getText() ?? "")
          .join(" "),
      },
    ];
    if (ts.isFunctionDeclaration(statement))
      return of(statement.name!.text, statement);
    if (!ts.isVariableStatement(statement)) return [];
    return statement.declarationList.declarations.flatMap(
      ({ name, initializer }) =>
        initializer && ts.isArrowFunction(initializer)
          ? of(name.getText(), initializer)
          : [],
    );
  });
}

/** How long arrays are, in words or as `3 × vertexCount`. */
const SHAPE = /×|count|per |each|length|as many/i;
/** What the numbers of arrays of fractions are. */
const UNIT =
  /metres|px|pixels|texel|sheets|cells|0 … 1|unit vector|radians|degrees|share|times|colour|cost|weight|normals|1 for/i;
/** Bytes of files, texts and pictures have no shape of their own. */
const BYTES =
  /byte|text|base64|base 64|png|jpeg|picture|obj|ply|stl|glb|gltf|file|library/i;

/** What a doc lacks, or "". */
function lacks({ doc, signature }: Exported): string {
  if (!doc) return "a doc comment";
  const arrays = [
    ...signature.matchAll(
      /\b(Float32|Float64|Uint32|Int32|Uint16|Uint8)Array/g,
    ),
  ].map(([, kind]) => kind);
  if (!arrays.length) return "";
  if (arrays.every((kind) => kind === "Uint8") && BYTES.test(doc)) return "";
  if (!SHAPE.test(doc)) return "the shape of its arrays";
  if (arrays.some((kind) => kind.startsWith("Float")) && !UNIT.test(doc))
    return "the unit of its arrays";
  return "";
}

describe("exported functions of the core", () => {
  it("say what they do, and of typed arrays how long they are and what is in them", () => {
    const found = sourceFiles("core").flatMap((file) =>
      exportedFunctions(file, readFileSync(file, "utf8")).flatMap((each) =>
        lacks(each) ? [`${each.where}: ${lacks(each)}`] : [],
      ),
    );
    expect(found).toEqual([]);
  });

  it("are found by this test, with or without a comment", () => {
    const found = exportedFunctions(
      "a.ts",
      `/** Sums. */
       export const sums = (positions: Float32Array): number[] => [];
       export function bare(n: number) { return n; }
       /** Moves. @param p 3 × vertexCount */
       export function moved(p: Float64Array): void {}
       /** Middles. @param p 3 × vertexCount, metres */
       export function middles(p: Float64Array): void {}
       /** Reads a file. */
       export function read(bytes: Uint8Array): void {}
       const own = 1;`,
    );
    expect(found.map((each) => [each.where, lacks(each)])).toEqual([
      ["a.ts sums", "the shape of its arrays"],
      ["a.ts bare", "a doc comment"],
      ["a.ts moved", "the unit of its arrays"],
      ["a.ts middles", ""],
      ["a.ts read", ""],
    ]);
  });
});

/** Lines of a function from which on it says why it is not parted. */
const LONG = 80;

/** Functions of a file that are long and don't say why; what lies within one that does is excused with it. */
function unexcused(file: string, text: string): string[] {
  const script = file.endsWith(".vue")
    ? (/<script[^>]*>([\s\S]*?)<\/script>/.exec(text)?.[1] ?? "")
    : text;
  const source = ts.createSourceFile(
    file,
    script,
    ts.ScriptTarget.Latest,
    true,
  );
  const found: string[] = [];
  const visit = (node: ts.Node): void => {
    if (ts.isFunctionLike(node) && "body" in node && node.body) {
      const [from, to] = [node.getStart(), node.end].map(
        (at) => source.getLineAndCharacterOfPosition(at).line,
      );
      if (to - from >= LONG) {
        const above = script.slice(node.getFullStart(), node.getStart());
        const own = script.slice(node.getStart(), node.getStart(source, true));
        const docs = ts
          .getJSDocCommentsAndTags(node)
          .map((each) => each.getText())
          .join("\n");
        if (/In one piece\b/.test(above + own + docs)) return;
        found.push(`${file} ${node.name?.getText() ?? "a function"}`);
      }
    }
    ts.forEachChild(node, visit);
  };
  visit(source);
  return found;
}

describe("functions", () => {
  it("of more than 80 lines say why they are in one piece", () => {
    const of = ["core", "app", "server", "cli", "demo", "bench", "tests"];
    const found = of.flatMap((folder) =>
      sourceFiles(folder).flatMap((file) =>
        unexcused(file, readFileSync(file, "utf8")),
      ),
    );
    expect(found).toEqual([]);
  });
});
