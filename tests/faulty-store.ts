import type { Store } from "../server/store/store";
import type { StoreClient } from "../server/store/store-client";

/** A store whose calls about jobs fail where `faultOf` says so. @param faultOf is asked before each call, by its name */
export function faultyStore(
  store: Store,
  faultOf: (call: string) => Error | null | undefined,
): StoreClient {
  const jobs = new Proxy(store.jobs, {
    get: (target, name: "add" | "set" | "get") => {
      const method = target[name] as (...args: unknown[]) => Promise<unknown>;
      return async (...args: unknown[]) => {
        const fault = faultOf(name);
        if (fault) throw fault;
        return method.apply(target, args);
      };
    },
  });
  return new Proxy(store, {
    get: (target, name: keyof Store) => {
      if (name === "jobs") return jobs;
      const value = target[name] as unknown;
      return typeof value === "function"
        ? (value as () => unknown).bind(target)
        : value;
    },
  }) as unknown as StoreClient;
}
