import { field } from "./operation";

/** The option of every operation that works on chosen parts. */
export class PartsOptions {
  @field({ kind: "parts", label: "Parts", help: "Which parts; empty for all." })
  parts: string[] = [];
}
