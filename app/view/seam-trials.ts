import type { Mesh } from "../../core/mesh/mesh";

/** How a part is to be laid out with the seams that are being drawn. */
export interface TrialInput {
  turn: number;
  mesh: Mesh;
  sheet: { width: number; height: number };
}

/** How it would lay out. */
export interface TrialOutput {
  turn: number;
  uvs: Float32Array;
  seams: Uint8Array;
  /** faceCount: 1 where the face lies elsewhere than before. */
  changed: Uint8Array;
  islands: number;
  stretch: number;
  milliseconds: number;
}

/** What trials run on: a worker of their own, so that no click waits for one. */
export interface TrialWorker {
  postMessage(input: TrialInput): void;
  onmessage: ((event: MessageEvent<TrialOutput>) => void) | null;
}

/** Tries seams one after the other; only the newest that was asked for is tried next, and only it is told. */
export class SeamTrials<T> {
  private worker: TrialWorker | null = null;
  private busy = false;
  private turn = 0;
  private key = "";
  private next: TrialInput | null = null;
  private about: T | null = null;

  constructor(
    private readonly start: () => TrialWorker,
    private readonly told: (about: T, output: TrialOutput) => void,
  ) {}

  /** Asks for a layout; what was asked before is dropped. @param key the same for the same question */
  want(key: string, about: T, mesh: Mesh, sheet: TrialInput["sheet"]): void {
    if (key === this.key) return;
    this.key = key;
    this.about = about;
    this.next = { turn: ++this.turn, mesh, sheet };
    this.go();
  }

  /** Nothing is wanted any more. */
  drop(): void {
    this.key = "";
    this.turn++;
    this.next = null;
    this.about = null;
  }

  private go(): void {
    if (this.busy || !this.next) return;
    if (!this.worker) {
      this.worker = this.start();
      this.worker.onmessage = ({ data }) => this.receive(data);
    }
    const input = this.next;
    this.next = null;
    this.busy = true;
    this.worker.postMessage(input);
  }

  private receive(output: TrialOutput): void {
    this.busy = false;
    if (output.turn === this.turn && this.about) this.told(this.about, output);
    this.go();
  }
}
