import { defineStore } from "pinia";

/** Screen readers are told no more often than this, ms. */
const PAUSE = 1000;

/**
 * What is said to screen readers, by the one live region of the page, once a second at most: of every line that
 * speaks its latest words, in the order in which they asked.
 */
export const useSpeech = defineStore("speech", {
  state: () => ({
    text: "",
    /** What waits for its turn, by the line that it is of. */
    waiting: [] as { line: string; text: string }[],
    resting: false,
  }),
  actions: {
    /** @param line whose words these are: newer ones take the place of those that wait */
    say(words: string, line = "") {
      const text = words.replace(/\s+/g, " ").trim();
      const mine = this.waiting.find((each) => each.line === line);
      if (mine) mine.text = text;
      else this.waiting.push({ line, text });
      if (!this.resting) this.next();
    },
    next() {
      const said = this.waiting.shift();
      this.resting = Boolean(said);
      if (!said) return;
      this.text = said.text;
      setTimeout(() => this.next(), PAUSE);
    },
  },
});
