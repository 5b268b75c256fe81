import type { Asset, Brief } from "../core/asset/asset";
import { basename } from "node:path";
import { createAsset } from "../core/asset/asset";
import { isArchive } from "../core/formats/archive";
import { unpackProject } from "../core/asset/project";
import { kneeWords } from "../core/asset/knee";
import type { TooSmallCounts } from "../core/decimate/too-small";
import { tooSmallWords } from "../core/decimate/too-small";
import type { UnbrokenCounts } from "../core/reduce/methods/broken-words";
import { unbrokenWords } from "../core/reduce/methods/broken-words";
import type { Operation, OperationResult } from "../core/asset/operation";
import type { Workers } from "../core/base/context";
import type { OperationContext } from "../core/asset/operation";
import { readOptions } from "../core/asset/operation";
import { profileOf } from "../core/asset/profile";
import { hullMeshes } from "../core/formats/index";
import { joinMeshes } from "../core/mesh/change-faces";
import { findOperation } from "../core/operations";
import { runOperation } from "../core/route";
import type { RouteStep } from "../core/run-route";
import { runStep } from "../core/run-route";
import type { ShippedFile } from "../core/ship/methods/mesh-files";
import { shipFiles } from "../core/ship/methods/ship-files";
import { shipAsset } from "../core/ship/operations/ship";
import type { ShipOptions } from "../core/ship/methods/ship-options";
import { threadWorkers } from "../host/workers";
import { listed } from "./arguments";
import { CallFiles } from "./files";

/** One call of the command line: loads, runs operations one after the other, shows progress on a terminal. */
export class Session {
  asset: Asset;
  readonly files: CallFiles;
  private readonly workers: Workers & { close(): Promise<void> };
  private shown = 0;
  private asked: Partial<Brief> = {};
  /** Another asset, where one was given. */
  private other: Asset | null = null;
  failure = "";
  /** What is said after the report, though the work did not fail. */
  readonly words: string[] = [];

  /** @param overwrite whether files that are read may be written */
  constructor(name: string, overwrite = false) {
    this.files = new CallFiles(overwrite);
    this.asset = createAsset(name);
    this.workers = threadWorkers(
      new URL("./kernel-worker.mjs", import.meta.url),
    );
  }

  /** Changes the brief; what a call asks for counts for more than what a project says. */
  brief(changes: Partial<Brief>): void {
    this.asked = { ...this.asked, ...changes };
    this.asset = { ...this.asset, brief: { ...this.asset.brief, ...changes } };
  }

  /**
   * Reads files as source or game meshes. Several are told apart and paired by their names, as in the app.
   * @param join whether vertices at equal places become one; off where that is what is looked for
   * @param marked whether what marks a source or a game mesh in its name is taken off, so that they pair
   */
  async load(
    paths: string | readonly string[],
    role: "source" | "game",
    join = true,
    marked = false,
  ): Promise<OperationResult> {
    const list = typeof paths === "string" ? [paths] : paths;
    if (list.length === 1 && isArchive(list[0])) return this.open(list[0]);
    // Of one file names stay what it says: there is nothing to match them with.
    const reading =
      list.length > 1 && role === "source"
        ? { role: "both" }
        : { role, ...(marked ? {} : { sourcePattern: "", gamePattern: "" }) };
    return this.run(
      "intake/bring-in",
      { join, ...reading },
      this.files.givenTogether(list),
    );
  }

  /** Goes on with the asset in a project archive, with all that is in it. */
  private open(path: string): OperationResult {
    const asset = unpackProject(basename(path), this.files.plain(path));
    this.asset = { ...asset, brief: { ...asset.brief, ...this.asked } };
    return {
      asset: this.asset,
      headline: `${asset.parts.length} parts`,
      report: { parts: asset.parts.length },
    };
  }

  /** Reads files as the other asset that an operation may ask for. */
  async offerAsset(
    paths: readonly string[],
    { takes }: Pick<Operation, "takes">,
  ): Promise<void> {
    const own = this.asset;
    this.asset = createAsset("other");
    await this.load(paths, takes === "game" ? "game" : "source");
    if (takes === "both") this.sourceIsGame();
    this.other = this.asset;
    this.asset = own;
  }

  /** Takes what was loaded as source for the game meshes too. */
  sourceIsGame(): void {
    this.asset = {
      ...this.asset,
      parts: this.asset.parts.map((part) => ({
        ...part,
        game: part.game ?? part.source,
      })),
    };
  }

  /** Takes hulls as the source meshes of parts that have nothing else: a file of hulls alone is looked at as any other. */
  hullsAreSources(): void {
    this.asset = {
      ...this.asset,
      parts: this.asset.parts.map((part) =>
        part.source || part.game || !part.hulls.length
          ? part
          : {
              ...part,
              source: joinMeshes(
                hullMeshes(part.hulls).map(({ mesh }) => mesh),
              ),
            },
      ),
    };
  }

  async run(
    id: string,
    options: object,
    files: readonly ShippedFile[] = [],
  ): Promise<OperationResult> {
    const context = { ...this.context(), files };
    return this.take(
      await runOperation(findOperation(id), this.asset, options, context),
    );
  }

  /** Runs a stage of the route, as the app does. */
  async runStep(step: RouteStep): Promise<OperationResult> {
    return this.take(await runStep(this.asset, step, this.context()));
  }

  /** Makes levels of detail, which the brief then asks for. @param triangles of each, falling, parted by commas */
  async levels(triangles: string): Promise<OperationResult> {
    const made = await this.run("reduce/levels", { levels: triangles });
    this.brief({ levels: listed(triangles).map(Number) });
    return made;
  }

  /** Writes the files of a delivery as its profile says, but for what the call says; a check that stops it makes the call fail. */
  async ship(options: Partial<ShipOptions>) {
    const made = await shipFiles(
      this.asset,
      readOptions(shipAsset, {
        obj: false,
        ...profileOf(this.asset.brief).ship,
        ...options,
      }),
      this.context(),
    );
    if (made.report.failed) this.fail(made.report.failed);
    return made;
  }

  private context(): OperationContext {
    return {
      progress: (share, step) => this.show(share, step),
      check() {},
      workers: this.workers,
      ...(this.other && { assetById: async () => this.other! }),
    };
  }

  private take(result: OperationResult): OperationResult {
    this.asset = result.asset;
    const { failed, budget, tooSmall, unbroken } = result.report;
    if (typeof failed === "string") this.fail(failed);
    const breaks =
      typeof budget === "number" ? kneeWords(result.report, budget) : null;
    if (breaks) this.words.push(breaks);
    const instead = unbroken ? unbrokenWords(unbroken as UnbrokenCounts) : null;
    if (instead) this.words.push(instead);
    const left = tooSmall ? tooSmallWords(tooSmall as TooSmallCounts) : null;
    if (left) this.words.push(left);
    return result;
  }

  async close(): Promise<void> {
    if (this.shown) process.stderr.write("\r\x1b[K");
    await this.workers.close();
  }

  /** Says that the work failed although it has a report: exit code 1. */
  fail(why: string): void {
    this.failure = why;
  }

  show(share: number, step: string): void {
    if (!process.stderr.isTTY || Date.now() - this.shown < 100) return;
    this.shown = Date.now();
    process.stderr.write(
      `\r\x1b[K${String(Math.round(share * 100)).padStart(3)} % ${step}`,
    );
  }
}
