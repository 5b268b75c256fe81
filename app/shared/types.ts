import type { AssetDocument } from "../../core/asset/document";
import type { StageStanding } from "../../core/asset/stale";
import type { Stage } from "../../core/asset/stages";
import type { Field } from "../../core/asset/operation";

export interface Job {
  id: number;
  asset: number;
  /** The revision that it began from. */
  revision: number;
  operation: string;
  state: "queued" | "running" | "done" | "failed" | "cancelled" | "interrupted";
  error: string | null;
  report: Record<string, unknown> | null;
  made: string;
  ended: string | null;
  progress: {
    share: number;
    step: string;
    /** The stage that is worked at, where the job goes through several. */
    stage: Stage | null;
    since: number;
  } | null;
}

export interface AssetState {
  id: number;
  revision: number;
  number: number;
  title: string;
  made: string;
  canUndo: boolean;
  canRedo: boolean;
  document: AssetDocument;
  standing: StageStanding[];
  jobs: Job[];
}

export interface AssetSummary {
  id: number;
  name: string;
  changed: string;
  revision: number;
  parts: number;
  source: number;
  game: number;
  budget: number;
  /** A job is under way on it. */
  busy: boolean;
  standing: { stage: Stage; state: StageStanding["state"] }[];
}

export interface OperationInfo {
  id: string;
  stage: Stage;
  title: string;
  about: string;
  runs: "instant" | "heavy";
  /** Whether what it makes is the result of its stage. */
  makesResult: boolean;
  fields: Field[];
}
