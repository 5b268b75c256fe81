/** An error whose message is meant for the person at the screen: it says what happened, to what, and where. */
export class ArnikError extends Error {
  override name = "ArnikError";
}

/** A file is not what it claims to be; the message names the file and the line, byte, face or index. */
export class MeshFormatError extends ArnikError {
  override name = "MeshFormatError";
  constructor(
    readonly file: string,
    readonly detail: string,
  ) {
    super(`${file}: ${detail}`);
  }
}

/** Options that an operation can't run with; `fields` maps each wrong option to its reason. */
export class OptionsError extends ArnikError {
  override name = "OptionsError";
  constructor(
    readonly operation: string,
    readonly fields: Record<string, string>,
  ) {
    super(
      `${operation}: ${Object.entries(fields)
        .map(([key, why]) => `${key}: ${why}`)
        .join("; ")}`,
    );
  }
}

/** The asset lacks what a stage needs; the message says which stage to visit first. */
export class MissingInputError extends ArnikError {
  override name = "MissingInputError";
}

/** Thrown by `Context.check` once somebody asked the work to stop. */
export class CancelledError extends ArnikError {
  override name = "CancelledError";
  constructor() {
    super("cancelled");
  }
}
