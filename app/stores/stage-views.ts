import type { Show, StageView } from "../shared/view-types";
import type { Stage } from "../../core/asset/stages";

const PLAIN: StageView = {
  show: "game",
  compareBy: "divider",
  divider: 0.5,
  sheet: false,
  sheetShare: 0.44,
  sheetTurned: false,
  sheetFirst: false,
  sheetShows: "islands",
  wire: false,
  seams: false,
  hard: false,
  checker: false,
  hulls: false,
  hullSolid: true,
  cage: false,
  overlay: "none",
  threshold: 0,
  normals: "off",
  figure: false,
  references: true,
};

/** What shows what a stage makes. */
const OF_STAGE: Record<Stage, Partial<StageView>> = {
  intake: { show: "source" },
  survey: { show: "source", wire: true },
  reduce: { show: "compare", wire: true },
  edges: { show: "game", hard: true },
  unwrap: {
    show: "game",
    checker: true,
    seams: true,
    sheet: true,
    sheetShare: 0.58,
  },
  bake: { show: "baked", sheet: true, sheetShows: "normal" },
  finish: { show: "baked" },
  collide: { show: "game", hulls: true },
  ship: { show: "baked" },
};

export const VIEW_KEYS = Object.keys(PLAIN) as (keyof StageView)[];

/** How a stage is shown that nobody has changed. */
export const viewOf = (stage: Stage): StageView => ({
  ...PLAIN,
  ...OF_STAGE[stage],
});

/**
 * What has to change for the result of a stage to be seen: nothing where it is. A wire, a split or a map over the
 * surface that somebody chose stays.
 */
export function shownResult(stage: Stage, now: StageView): Partial<StageView> {
  const fitting: Partial<Record<Stage, Show[]>> = {
    reduce: ["compare", "game"],
    edges: ["game", "baked"],
    collide: ["game", "baked", "compare"],
    ship: ["baked", "game"],
  };
  const { show } = viewOf(stage);
  const change: Partial<StageView> = (fitting[stage] ?? [show]).includes(
    now.show,
  )
    ? {}
    : { show };
  if (stage === "edges" && !now.hard) change.hard = true;
  if (stage === "unwrap") {
    if (!now.sheet) change.sheet = true;
    if (!now.checker && now.overlay === "none") change.checker = true;
  }
  if (stage === "bake") {
    if (!now.sheet) change.sheet = true;
    if (now.sheetShows === "islands" || now.sheetShows === "checker")
      change.sheetShows = "normal";
  }
  if (stage === "collide" && !now.hulls) change.hulls = true;
  return change;
}
