/** What a job thread is asked. */
export interface JobCall {
  /** Tells answers of one thread apart. */
  call: number;
  /** Row of the job, or 0 for an instant operation, which has none. */
  job: number;
  assetId: number;
  revision: number;
  operation: string;
  options: unknown;
  /** Uploaded files: name as given, and where it waits on disk. */
  uploads: { name: string; path: string }[];
  /** One Int32: not 0 once somebody asked to stop. */
  cancel: SharedArrayBuffer;
}

export type JobAnswer =
  | { call: number; kind: "progress"; share: number; step: string }
  | {
      call: number;
      kind: "done";
      revision: number;
      report: Record<string, unknown>;
      summary: string;
    }
  | {
      call: number;
      kind: "failed";
      message: string;
      cancelled: boolean;
      status: number;
    };

/** The name under which bringing stale stages up to date is queued. */
export const UP_TO_DATE = "route/up-to-date";
