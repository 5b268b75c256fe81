// @vitest-environment happy-dom
import { afterEach, beforeEach, expect, it, vi } from "vitest";
import { nextTick } from "vue";
import { shown, stage } from "../../tests/mounted";
import { useSpeech } from "../stores/speech";
import LogStrip from "./LogStrip.vue";

beforeEach(() => void vi.useFakeTimers());
afterEach(() => void vi.useRealTimers());

it("speaks when its words change, and is silent then", async () => {
  const { workshop } = stage();
  const speech = useSpeech();
  const say = vi.spyOn(speech, "say");
  workshop.word = "Ship: 6 files";
  shown(LogStrip);
  for (let second = 0; second < 5; second++) {
    await nextTick();
    vi.advanceTimersByTime(1000);
  }
  expect(say).toHaveBeenCalledOnce();
  expect(speech.text).toBe("Ship: 6 files");
  expect(speech.resting).toBe(false);
  workshop.word = "Undone";
  await nextTick();
  expect(speech.text).toBe("Undone");
});
