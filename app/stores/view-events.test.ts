// @vitest-environment happy-dom
import { createPinia, setActivePinia } from "pinia";
import { effectScope } from "vue";
import { beforeEach, expect, test } from "vitest";
import { useView } from "./view";
import { useViewEvent } from "./view-events";

beforeEach(() => setActivePinia(createPinia()));

test("tells of every choice of the page, two alike included, and not of what the view itself chose", () => {
  const heard: unknown[] = [];
  const scope = effectScope();
  scope.run(() => useViewEvent("chosen", (event) => heard.push(event)));
  const view = useView();
  const choice = { faces: { lid: "0-3" }, of: "game" as const };
  view.choose(choice.faces, choice.of);
  view.choose(choice.faces, choice.of);
  view.hearFaces({ lid: "5" }, "game", view.chosen);
  expect(heard).toEqual([choice, choice]);
  scope.stop();
  view.choose(choice.faces, choice.of);
  expect(heard).toHaveLength(2);
});

test("tells that everything was let go, each time", () => {
  let times = 0;
  const scope = effectScope();
  scope.run(() => useViewEvent("cleared", () => times++));
  const view = useView();
  view.clearSelection();
  view.clearSelection();
  expect(times).toBe(2);
  scope.stop();
});
