import { createPinia, setActivePinia } from "pinia";
import { afterEach, beforeEach, expect, it, vi } from "vitest";
import { useSpeech } from "./speech";

beforeEach(() => {
  setActivePinia(createPinia());
  vi.useFakeTimers();
});
afterEach(() => vi.useRealTimers());

function heard() {
  const speech = useSpeech();
  const said: string[] = [];
  speech.$subscribe(
    (_, { text }) => {
      if (text && said.at(-1) !== text) said.push(text);
    },
    { flush: "sync" },
  );
  return { speech, said };
}

it("says the latest words, once a second at most", () => {
  const { speech, said } = heard();
  for (let i = 0; i < 40; i++) {
    speech.say(`${i} %`);
    vi.advanceTimersByTime(60);
  }
  vi.advanceTimersByTime(3000);
  expect(said).toEqual(["0 %", "16 %", "33 %", "39 %"]);
});

it("loses no line's words to another's", () => {
  const { speech, said } = heard();
  speech.say("Reduce", "log");
  for (let i = 0; i < 5; i++) {
    speech.say(`${i}  faces\n chosen `, "chosen");
    speech.say(`${i} mm off`, "curve");
  }
  vi.advanceTimersByTime(5000);
  expect(said).toEqual(["Reduce", "4 faces chosen", "4 mm off"]);
  expect(speech.resting).toBe(false);
  speech.say("none", "chosen");
  expect(said.at(-1)).toBe("none");
});
