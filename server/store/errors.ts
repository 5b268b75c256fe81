import {
  ArnikError,
  CancelledError,
  MeshFormatError,
  MissingInputError,
  OptionsError,
} from "../../core/base/errors";

/** The state of an asset went on while somebody worked on an older one. */
export class ConflictError extends ArnikError {
  override name = "ConflictError";
  constructor(
    message = "the asset was changed elsewhere meanwhile; nothing was overwritten: look at the new state and try again",
  ) {
    super(message);
  }
}

export class NotFoundError extends ArnikError {
  override name = "NotFoundError";
}

/** Something is under way that has to end first. */
export class BusyError extends ArnikError {
  override name = "BusyError";
}

/** The disk has no room for what was to be stored; nothing of it was. */
export class DiskFullError extends ArnikError {
  override name = "DiskFullError";
  constructor() {
    super(
      "the disk is full: nothing was stored. Make room on it and try again",
    );
  }
}

/** What was sent is larger than what is taken. */
export class TooLargeError extends ArnikError {
  override name = "TooLargeError";
}

/** A request that says too little or something else than it should. */
export class RequestError extends ArnikError {
  override name = "RequestError";
}

/** The store can't be used: in use by somebody else, damaged, or of another version. */
export class StoreError extends ArnikError {
  override name = "StoreError";
}

/** A thread or process of Arnik's ended before it answered. */
export class LostError extends ArnikError {
  override name = "LostError";
}

/** Work that was given a time did not end in it. */
export class TimeError extends ArnikError {
  override name = "TimeError";
}

/** Every error that may cross from one thread or process to another, and the HTTP status that says it. */
const KINDS: Record<
  string,
  { status: number; make(wire: ErrorOnWire): ArnikError }
> = {
  ConflictError: { status: 409, make: (e) => new ConflictError(e.message) },
  BusyError: { status: 409, make: (e) => new BusyError(e.message) },
  NotFoundError: { status: 404, make: (e) => new NotFoundError(e.message) },
  DiskFullError: { status: 507, make: () => new DiskFullError() },
  TooLargeError: { status: 413, make: (e) => new TooLargeError(e.message) },
  RequestError: { status: 400, make: (e) => new RequestError(e.message) },
  StoreError: { status: 503, make: (e) => new StoreError(e.message) },
  LostError: { status: 503, make: (e) => new LostError(e.message) },
  TimeError: { status: 503, make: (e) => new TimeError(e.message) },
  CancelledError: { status: 409, make: () => new CancelledError() },
  MissingInputError: {
    status: 422,
    make: (e) => new MissingInputError(e.message),
  },
  MeshFormatError: {
    status: 422,
    make: (e) => new MeshFormatError(e.file ?? "", e.detail ?? ""),
  },
  OptionsError: {
    status: 400,
    make: (e) => new OptionsError(e.operation ?? "", e.fields ?? {}),
  },
  ArnikError: { status: 422, make: (e) => new ArnikError(e.message) },
};

export interface ErrorOnWire {
  name: string;
  message: string;
  file?: string;
  detail?: string;
  operation?: string;
  fields?: Record<string, string>;
}

/** The HTTP status of an error of ours. */
export const statusOf = (error: ArnikError): number =>
  KINDS[error.name]?.status ?? 422;

/** An error as plain values. What is none of ours keeps its words, under the name it had. */
export function toWire(error: unknown): ErrorOnWire {
  if (!(error instanceof Error))
    return { name: "Error", message: String(error) };
  const { name, message } = error;
  const wire: ErrorOnWire = { name, message };
  if (error instanceof MeshFormatError)
    return { ...wire, file: error.file, detail: error.detail };
  if (error instanceof OptionsError)
    return { ...wire, operation: error.operation, fields: error.fields };
  return wire;
}

/** The error that `toWire` was given, of the same class. */
export function fromWire(wire: ErrorOnWire): Error {
  const kind = KINDS[wire.name];
  return kind ? kind.make(wire) : new Error(wire.message);
}

const FULL = new Set([
  "SQLITE_FULL",
  "SQLITE_IOERR_SHMSIZE",
  "ENOSPC",
  "EDQUOT",
]);

/** Whether an error says that a disk is full, whoever says so. */
export const saysFull = (error: unknown): boolean =>
  error instanceof Error &&
  (FULL.has((error as NodeJS.ErrnoException).code ?? "") ||
    /database or disk is full/.test(error.message));
