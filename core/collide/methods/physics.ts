export type Rapier = typeof import("@dimforge/rapier3d-compat").default;

let engine: Promise<Rapier> | null = null;

/** The physics library, ready: loaded once, when it is first asked for. */
export function physics(): Promise<Rapier> {
  engine ??= import("@dimforge/rapier3d-compat").then(async (module) => {
    const rapier = module.default ?? (module as unknown as Rapier);
    await rapier.init();
    return rapier;
  });
  return engine;
}
