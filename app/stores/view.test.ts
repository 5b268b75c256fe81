import { createPinia, setActivePinia } from "pinia";
import { beforeEach, describe, expect, it } from "vitest";
import { STAGES } from "../../core/asset/stages";
import { viewOf, shownResult } from "./stage-views";
import { useAnswers } from "./answers";
import { useTrials } from "./trials";
import { useView } from "./view";

const kept = new Map<string, string>();
Object.assign(globalThis, {
  localStorage: {
    getItem: (key: string) => kept.get(key) ?? null,
    setItem: (key: string, value: string) => void kept.set(key, value),
  },
});

beforeEach(() => {
  kept.clear();
  setActivePinia(createPinia());
});

describe("the view of a stage", () => {
  it("shows what the stage makes, until somebody changes it", () => {
    const view = useView();
    view.recall(1);
    expect(view.show).toBe("source");
    view.go("unwrap");
    expect(view).toMatchObject({ show: "game", checker: true, sheet: true });
    view.go("bake");
    expect(view).toMatchObject({ show: "baked", sheetShows: "normal" });
    view.go("collide");
    expect(view).toMatchObject({ show: "game", hulls: true, sheet: false });
  });

  it("is left as it was, by stage and by asset, also over a reload", () => {
    const view = useView();
    view.recall(1);
    view.go("unwrap");
    view.checker = false;
    view.sheetShare = 0.3;
    view.sheetTurned = true;
    view.camera = { yaw: 1, pitch: 0, distance: 2, target: [0, 0, 0] };
    view.go("collide");
    view.hulls = false;
    view.go("unwrap");
    const left = { checker: false, sheetShare: 0.3, sheetTurned: true };
    expect(view).toMatchObject(left);
    // The camera is the same at all stages.
    expect(view.camera?.distance).toBe(2);
    view.keep();
    setActivePinia(createPinia());
    const again = useView();
    again.recall(1);
    expect(again.stage).toBe("unwrap");
    expect(again).toMatchObject(left);
    again.go("collide");
    expect(again.hulls).toBe(false);
    again.recall(2);
    again.go("collide");
    expect(again.hulls).toBe(true);
  });

  it("forgets what is no stage and no view", () => {
    kept.set("arnik.view.3", '{"stage":"nowhere","show":"revisions"}');
    const view = useView();
    view.recall(3);
    expect(view).toMatchObject({ stage: "intake", show: "source" });
    kept.set(
      "arnik.view.5",
      '{"stage":"unwrap","overlay":"stretch","views":{"edges":{"overlay":"gone","wire":true}}}',
    );
    view.recall(5);
    expect(view.overlay).toBe(viewOf("unwrap").overlay);
    expect(view.views.edges).toEqual({ wire: true });
    kept.set("arnik.view.4", "{not json");
    view.recall(4);
    expect(view.stage).toBe("intake");
  });
});

it("keeps single keys switched off, for all assets", () => {
  const view = useView();
  view.recall(1);
  expect(view.singleKeys).toBe(true);
  view.singleKeys = false;
  view.keep();
  view.$reset();
  view.recall(2);
  expect(view.singleKeys).toBe(false);
});

describe("a result", () => {
  it("is seen at once in the view that its stage has by itself", () => {
    for (const stage of STAGES)
      expect(shownResult(stage, viewOf(stage)), stage).toEqual({});
  });

  it("is shown where the view hid it, and nothing else is changed", () => {
    const view = useView();
    view.recall(1);
    view.go("collide");
    view.$patch({ show: "source", hulls: false, wire: true });
    view.showResult();
    expect(view).toMatchObject({ show: "game", hulls: true, wire: true });
    view.go("unwrap");
    view.$patch({ sheet: false, checker: false, overlay: "angles" });
    view.showResult();
    // A map over the surface that was chosen says as much as the checker.
    expect(view).toMatchObject({ sheet: true, checker: false });
    view.go("reduce");
    view.show = "game";
    view.showResult();
    expect(view.show).toBe("game");
    view.show = "source";
    view.showResult();
    expect(view.show).toBe("compare");
  });
});

describe("opening another asset", () => {
  it("forgets what was tried out and what the view said of the one before", () => {
    const view = useView();
    view.recall(1);
    const trials = useTrials();
    const answers = useAnswers();
    trials.previewOwn = { lid: 40 };
    trials.level = 2;
    answers.traceRefused = "no edges lead there";
    view.recall(2);
    expect(trials).toMatchObject({ previewOwn: {}, level: 0 });
    expect(answers.traceRefused).toBe("");
  });

  it("goes back to the game meshes as they are, and keeps the level that is looked at", () => {
    const trials = useTrials();
    trials.previewBudget = 500;
    trials.without = { lid: "0-4" };
    trials.level = 1;
    trials.forget();
    expect(trials).toMatchObject({ previewBudget: 0, without: {}, level: 1 });
  });
});
