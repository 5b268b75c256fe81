import { createPinia, setActivePinia } from "pinia";
import { afterEach, beforeEach, expect, it, vi } from "vitest";
import { useSpeech } from "./speech";

beforeEach(() => {
  setActivePinia(createPinia());
  vi.useFakeTimers();
});
afterEach(() => vi.useRealTimers());

it("says the latest words, once a second at most", () => {
  const speech = useSpeech();
  const said: string[] = [];
  speech.$subscribe(
    (_, { text }) => {
      if (said.at(-1) !== text) said.push(text);
    },
    { flush: "sync" },
  );
  for (let i = 0; i < 40; i++) {
    speech.say(`${i} %`);
    vi.advanceTimersByTime(60);
  }
  vi.advanceTimersByTime(3000);
  expect(said).toEqual(["0 %", "16 %", "33 %", "39 %"]);
});

it("says words again only when others came between", () => {
  const speech = useSpeech();
  speech.say("one  part\n chosen ");
  expect(speech.text).toBe("one part chosen");
  speech.say("none");
  speech.say("one part chosen");
  vi.advanceTimersByTime(1000);
  expect(speech.waiting).toBeNull();
  expect(speech.resting).toBe(false);
});
