export type JobState =
  "queued" | "running" | "done" | "failed" | "cancelled" | "interrupted";

export interface AssetRow {
  id: number;
  name: string;
  head: number;
  tip: number;
  changed: string;
}

export interface RevisionRow {
  id: number;
  asset_id: number;
  parent_id: number | null;
  /** How many revisions lead to this one, itself counted. */
  number: number;
  title: string;
  document: string;
  made: string;
}

export interface SnapshotRow {
  id: number;
  revision_id: number;
  name: string;
  made: string;
}

export interface JobRow {
  id: number;
  asset_id: number;
  revision_id: number;
  operation: string;
  options: string;
  /** JSON: name as given, and the id under which the file waits. */
  uploads: string;
  state: JobState;
  error: string | null;
  report: string | null;
  made: string;
  ended: string | null;
}

/** A file that was sent and waits to be read: its name as given, and the id it was stored under. */
export interface Upload {
  id: string;
  name: string;
}

export type NewJob = Pick<
  JobRow,
  "asset_id" | "revision_id" | "operation" | "options" | "uploads"
>;

export const now = () => new Date().toISOString();
