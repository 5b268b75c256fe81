import type { Texture } from "three";
import type { AssetDocument } from "../../core/asset/document";
import type { TrialMaps } from "../../core/bake/methods/trial-bake";
import type { BakedMap } from "../../core/base/pictures";
import type { BakeTrialFigures, FromView, ViewState } from "../shared/messages";
import { keepCoverage, sheetsTexture } from "./map-textures";
import { asPicture } from "./room";

/** A bake that is to be tried. */
export interface BakeTrialInput {
  turn: number;
  document: AssetDocument;
  options: Readonly<Record<string, unknown>>;
  /** Names of chosen parts; none for all. */
  parts: readonly string[];
}

/** How it looks so far, or why it can't be tried. */
export type BakeTrialOutput =
  | {
      kind: "maps";
      turn: number;
      maps: TrialMaps["maps"];
      figures: BakeTrialFigures;
    }
  | { kind: "failed"; turn: number; message: string };

/** What trials run on. */
export interface BakeTrialWorker {
  postMessage(input: BakeTrialInput): void;
  terminate(): void;
  onmessage: ((event: MessageEvent<BakeTrialOutput>) => void) | null;
}

/** What a trial of a bake looks like, in place of what was baked. */
export class BakeTrial {
  normal: Texture | null = null;
  opacity: Texture | null = null;
  /** What the normals look like on the sheet. */
  picture: Texture | null = null;
  private worker: BakeTrialWorker | null = null;
  private turn = 0;
  private wanted = "";
  private document: AssetDocument | null = null;
  private parts: ReadonlySet<string> | null = null;

  /**
   * @param start begins a worker of its own, so that no click waits for rays
   * @param changed is told when it looks otherwise
   */
  constructor(
    private readonly start: () => BakeTrialWorker,
    private readonly tell: (message: FromView) => void,
    private readonly changed: () => void,
  ) {}

  /** Tries a bake, or shows what was baked again. What was asked before is dropped. */
  want(
    document: AssetDocument | null,
    trial: ViewState["bakeTrial"] | undefined,
  ): void {
    if (!document || !trial) {
      this.stop();
      return;
    }
    const wanted = JSON.stringify(trial);
    if (wanted === this.wanted && document === this.document) return;
    this.wanted = wanted;
    this.document = document;
    if (!this.worker) {
      this.worker = this.start();
      this.worker.onmessage = ({ data }) => this.receive(data);
    }
    this.worker.postMessage({ turn: ++this.turn, document, ...trial });
  }

  /** Whether a part looks as it was tried. */
  shows(name: string): boolean {
    return this.normal !== null && (!this.parts || this.parts.has(name));
  }

  private receive(output: BakeTrialOutput): void {
    if (output.turn !== this.turn) return;
    if (output.kind === "failed") {
      this.tell({ kind: "bake-trial", figures: null, refused: output.message });
      return;
    }
    const { parts } = JSON.parse(this.wanted) as BakeTrialInput;
    this.parts = parts.length ? this.sharing(parts) : null;
    this.take(output.maps);
    this.tell({ kind: "bake-trial", figures: output.figures, refused: "" });
    this.changed();
  }

  /** The parts that show the same texels as some. */
  private sharing(parts: readonly string[]): Set<string> {
    const all = this.document!.parts;
    const worked = (name: string) =>
      all.find((part) => part.name === name)?.repeat?.of ?? name;
    const own = new Set(parts.map(worked));
    return new Set(
      all.flatMap(({ name }) => (own.has(worked(name)) ? [name] : [])),
    );
  }

  private take(maps: readonly BakedMap[]): void {
    this.clear();
    const of = (wanted: string) => maps.filter(({ kind }) => kind === wanted);
    this.normal = sheetsTexture(of("normal"), false);
    this.opacity = keepCoverage(sheetsTexture(of("opacity"), false));
    this.picture = asPicture(this.normal);
  }

  private clear(): void {
    this.normal?.dispose();
    this.opacity?.dispose();
    this.picture?.dispose();
    this.normal = this.opacity = this.picture = null;
  }

  private stop(): void {
    if (!this.worker) return;
    this.worker.terminate();
    this.worker = null;
    this.turn++;
    this.wanted = "";
    this.document = null;
    this.clear();
    this.tell({ kind: "bake-trial", figures: null, refused: "" });
    this.changed();
  }
}
