import { defineStore } from "pinia";

/** Screen readers are told no more often than this, ms. */
const PAUSE = 1000;

/** What is said to screen readers, by the one live region of the page: the latest words, once a second at most. */
export const useSpeech = defineStore("speech", {
  state: () => ({
    text: "",
    /** Waits for its turn; null where nothing does. */
    waiting: null as string | null,
    resting: false,
  }),
  actions: {
    say(words: string) {
      const text = words.replace(/\s+/g, " ").trim();
      if (this.resting) this.waiting = text;
      else this.tell(text);
    },
    tell(text: string) {
      this.waiting = null;
      if (text === this.text) return;
      this.text = text;
      this.resting = true;
      setTimeout(() => {
        this.resting = false;
        if (this.waiting !== null) this.tell(this.waiting);
      }, PAUSE);
    },
  },
});
