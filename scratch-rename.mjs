// rename.mjs  then lines on stdin: FILE SYMBOL[.member] NEW
import ts from "typescript";
import { readFileSync, writeFileSync } from "node:fs";
import { execSync } from "node:child_process";
import { resolve } from "node:path";
const root = process.cwd();
const files = execSync("git ls-files '*.ts' '*.mts'", { encoding: "utf8" })
  .trim()
  .split("\n")
  .map((f) => resolve(root, f));
const versions = new Map();
const cache = new Map();
const read = (f) => {
  if (!cache.has(f)) {
    try {
      cache.set(f, readFileSync(f, "utf8"));
    } catch {
      return undefined;
    }
  }
  return cache.get(f);
};
const host = {
  getScriptFileNames: () => files,
  getScriptVersion: (f) => String(versions.get(f) ?? 0),
  getScriptSnapshot: (f) => {
    const t = read(f);
    return t === undefined ? undefined : ts.ScriptSnapshot.fromString(t);
  },
  getCurrentDirectory: () => root,
  getCompilationSettings: () => ({
    target: ts.ScriptTarget.ES2022,
    module: ts.ModuleKind.ESNext,
    moduleResolution: ts.ModuleResolutionKind.Bundler,
    strict: true,
    experimentalDecorators: true,
    lib: ["lib.es2023.d.ts", "lib.dom.d.ts"],
    skipLibCheck: true,
    allowJs: false,
    noEmit: true,
  }),
  getDefaultLibFileName: (o) => ts.getDefaultLibFilePath(o),
  fileExists: ts.sys.fileExists,
  readFile: ts.sys.readFile,
  readDirectory: ts.sys.readDirectory,
  directoryExists: ts.sys.directoryExists,
  getDirectories: ts.sys.getDirectories,
};
const service = ts.createLanguageService(host);
const vues = execSync("git ls-files '*.vue'", { encoding: "utf8" })
  .trim()
  .split("\n");
for (const line of readFileSync(0, "utf8").trim().split("\n")) {
  const [file, path, name] = line.trim().split(/\s+/);
  if (!file || file.startsWith("#")) continue;
  const full = resolve(root, file);
  const source = service.getProgram().getSourceFile(full);
  if (!source) {
    console.log("no file", file);
    continue;
  }
  const want = path.split(".");
  let found = null;
  const visit = (node, depth) => {
    if (found) return;
    if (
      node.name &&
      ts.isIdentifier(node.name) &&
      node.name.text === want[depth] &&
      !ts.isImportSpecifier(node)
    ) {
      if (depth === want.length - 1) {
        found = node.name;
        return;
      }
      ts.forEachChild(node, (c) => visit(c, depth + 1));
      if (found) return;
    }
    ts.forEachChild(node, (c) => visit(c, depth));
  };
  visit(source, 0);
  if (!found) {
    console.log("not found", line);
    continue;
  }
  const at = found.getStart(source);
  const locations =
    service.findRenameLocations(full, at, false, false, {
      providePrefixAndSuffixTextForRename: false,
    }) ?? [];
  const by = new Map();
  for (const l of locations) {
    if (l.fileName.includes("node_modules")) continue;
    (by.get(l.fileName) ?? by.set(l.fileName, []).get(l.fileName)).push(l);
  }
  let count = 0;
  for (const [f, list] of by) {
    let text = read(f);
    for (const l of list.sort((a, b) => b.textSpan.start - a.textSpan.start)) {
      // shorthand property: keep key when renaming a variable, keep variable when renaming a property
      text =
        text.slice(0, l.textSpan.start) +
        (l.prefixText ?? "") +
        name +
        (l.suffixText ?? "") +
        text.slice(l.textSpan.start + l.textSpan.length);
      count++;
    }
    cache.set(f, text);
    versions.set(f, (versions.get(f) ?? 0) + 1);
    writeFileSync(f, text);
  }
  const last = want[want.length - 1];
  const inVue = vues.filter((v) =>
    new RegExp(`\\b${last}\\b`).test(readFileSync(v, "utf8")),
  );
  console.log(
    `${path} -> ${name}: ${count} in ${by.size} files${inVue.length ? "; word in " + inVue.join(" ") : ""}`,
  );
}
