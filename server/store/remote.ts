import { LostError, fromWire, toWire } from "./errors";
import type { ErrorOnWire } from "./errors";

/** One side of a channel to another thread or process. */
export interface Channel {
  send(message: unknown, transfer?: readonly ArrayBuffer[]): void;
  /** Called with every message; once, when the other side is gone, with why. */
  listen(
    message: (message: unknown) => void,
    gone: (why: string) => void,
  ): void;
  /** Ends the other side, at once, whatever it is doing. */
  end(): Promise<void>;
}

export interface CallMessage {
  call: number;
  method: string;
  args: unknown[];
}

export type AnswerMessage =
  | { call: number; value: unknown }
  | { call: number; error: ErrorOnWire }
  | { call: number; news: unknown };

interface Waiting {
  resolve(value: unknown): void;
  reject(error: Error): void;
  news?(news: never): void;
}

/**
 * Calls to another thread or process, started when first needed and again after it ended. Nobody waits for ever:
 * when the other side goes, all calls that wait are refused with LostError.
 */
export class Remote {
  private channel: Channel | null = null;
  private readonly waiting = new Map<number, Waiting>();
  private calls = 0;

  constructor(
    private readonly start: () => Channel,
    /** Says in a sentence what the loss of the other side means. */
    private readonly lost: (why: string) => string,
  ) {}

  /** @param news is given what the other side tells before it answers */
  call<T>(
    method: string,
    args: unknown[],
    news?: (news: never) => void,
  ): { number: number; answer: Promise<T> } {
    const number = ++this.calls;
    const answer = new Promise<unknown>((resolve, reject) => {
      this.waiting.set(number, { resolve, reject, news });
      try {
        this.open().send({ call: number, method, args } satisfies CallMessage);
      } catch (error) {
        // It has just gone: the next call starts it again.
        this.channel = null;
        this.waiting.delete(number);
        reject(
          new LostError(
            this.lost(error instanceof Error ? error.message : String(error)),
          ),
        );
      }
    });
    return { number, answer: answer as Promise<T> };
  }

  /** Starts the other side before it is called. */
  warm(): void {
    this.open();
  }

  /** Says something that is not answered. Nothing happens where the other side is not running. */
  post(message: unknown): void {
    try {
      this.channel?.send(message);
    } catch {
      // It is going; the calls that wait are refused when it is gone.
    }
  }

  /** Ends the other side; calls that wait are refused. */
  async end(why = "ended"): Promise<void> {
    const { channel } = this;
    this.channel = null;
    this.refuseAll(why);
    await channel?.end();
  }

  private open(): Channel {
    if (this.channel) return this.channel;
    const channel = this.start();
    this.channel = channel;
    channel.listen(
      (message) => this.receive(message as AnswerMessage),
      (why) => {
        if (this.channel !== channel) return;
        this.channel = null;
        this.refuseAll(why);
      },
    );
    return channel;
  }

  private receive(message: AnswerMessage): void {
    const waiting = this.waiting.get(message.call);
    if (!waiting) return;
    if ("news" in message) return waiting.news?.(message.news as never);
    this.waiting.delete(message.call);
    if ("error" in message) waiting.reject(fromWire(message.error));
    else waiting.resolve(message.value);
  }

  private refuseAll(why: string): void {
    const all = [...this.waiting.values()];
    this.waiting.clear();
    for (const { reject } of all) reject(new LostError(this.lost(why)));
  }
}

/** Makes something when it is first asked for, and once: what failed is tried again the next time. */
export function whenAsked<T>(make: () => Promise<T>): () => Promise<T> {
  let made: Promise<T> | null = null;
  return () => {
    made ??= make().catch((error: unknown) => {
      made = null;
      throw error;
    });
    return made;
  };
}

/**
 * Answers calls one after the other. @param post sends to the caller
 * @param handle the value to answer with, and buffers that may move instead of being copied
 */
export function answerCalls(
  post: (message: AnswerMessage, transfer: ArrayBuffer[]) => void,
  handle: (
    call: CallMessage,
    news: (news: unknown) => void,
  ) => Promise<{ value: unknown; transfer?: ArrayBuffer[] }>,
): (message: CallMessage) => void {
  return (message) => {
    const { call } = message;
    handle(message, (news) => post({ call, news }, [])).then(
      ({ value, transfer }) => post({ call, value }, transfer ?? []),
      (error: unknown) => post({ call, error: toWire(error) }, []),
    );
  };
}
