import type { Stage } from "../../core/asset/stages";
import type { Upload } from "../store/rows";

/** What a job process is asked to do. */
export interface Work {
  /** Row of the job, or 0 for an instant operation, which has none. */
  job: number;
  assetId: number;
  revision: number;
  operation: string;
  options: unknown;
  uploads: readonly Upload[];
}

/** What work tells before it is done. */
export interface WorkProgress {
  share: number;
  step: string;
  /** The stage that is being worked at, where work goes through several. */
  stage?: Stage;
  /** Whether a revision was stored since. */
  stored?: boolean;
}

/** What is left of work when it is done. */
export interface WorkDone {
  revision: number;
  report: Record<string, unknown>;
  title: string;
}

/** What a job process is started with. */
export interface JobProcessData {
  folder: string;
  /** Of the store that asks: results are stored only while it is the one in use. */
  owner: string;
  /** 0 for work that answers at once, more for work that gives way to it. */
  niceness: number;
}

/** Asks the work at hand to stop; it is not answered, the call is. */
export interface CancelMessage {
  cancel: number;
}

/** The name under which bringing stale stages up to date is queued. */
export const UP_TO_DATE = "route/up-to-date";
/** The name under which going through all stages is queued. */
export const RUN_ROUTE = "route/run";
