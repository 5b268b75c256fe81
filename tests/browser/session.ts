import type { Browser, ElementHandle, Page } from "puppeteer-core";
import type { AssetDocument } from "../../core/asset/document";
import { App, openBrowser, openPage, pause, shows, viewReady } from "./app";

/** What the server answers when it is asked for an asset. */
export interface Answer {
  id: number;
  revision: number;
  number: number;
  title: string;
  jobs: { id: number; operation: string; state: string }[];
  standing: { stage: string; state: string }[];
  document: AssetDocument;
}

/** A server with a data folder of its own, a browser, and a page on one asset. */
export class Session {
  readonly app = new App();
  /** What went wrong in the page. */
  readonly errors: string[] = [];
  browser!: Browser;
  page!: Page;
  id = 0;

  async open(): Promise<void> {
    await this.app.start();
    this.browser = await openBrowser();
    this.page = await openPage(this.browser, this.errors);
  }

  async close(): Promise<void> {
    await this.browser?.close();
    await this.app.remove();
  }

  answer(of = this.id): Promise<Answer> {
    return this.app.json<Answer>(`assets/${of}`);
  }

  /** Begins an asset and goes to its page. */
  async begin(name: string): Promise<void> {
    const made = await this.app.json<{ id: number }>("assets", "POST", {
      name,
    });
    this.id = made.id;
    await this.page.goto(`${this.app.url}/asset/${this.id}`);
    await shows(this.page, "Choose files…");
  }

  /** Runs an operation past the page, and waits until it is done. */
  async run(operation: string, options: object): Promise<Answer> {
    const { revision } = await this.answer();
    await this.app.json(`assets/${this.id}/run`, "POST", {
      revision,
      operation,
      options,
    });
    return this.idle((found) => found.revision !== revision);
  }

  /** Brings a file from disk in, and waits for its parts. */
  async bringIn(path: string): Promise<Answer> {
    const { length } = (await this.answer()).document.parts;
    const input = (await this.page.waitForSelector(
      "input[aria-label='Mesh files or a project']",
    )) as ElementHandle<HTMLInputElement>;
    await input.uploadFile(path);
    return this.idle(({ document }) => document.parts.length > length);
  }

  /** Waits until no job is open, something holds, and the view shows it. */
  async idle(
    holds: (answer: Answer) => boolean = () => true,
    seconds = 120,
  ): Promise<Answer> {
    for (let tries = 0; tries < 10 * seconds; tries++) {
      const found = await this.answer();
      const busy = found.jobs.some((job) =>
        ["running", "queued"].includes(job.state),
      );
      if (!busy && holds(found)) {
        await viewReady(this.page);
        return found;
      }
      await pause(100);
    }
    throw new Error("it did not come about");
  }

  /** Lets go of whatever has the focus. */
  async blur(): Promise<void> {
    await this.page.evaluate(() =>
      (document.activeElement as HTMLElement | null)?.blur(),
    );
  }

  /** Goes to a stage by its digit. */
  async stage(digit: string): Promise<void> {
    await this.blur();
    await this.page.keyboard.press(digit as "1");
    await pause(150);
  }

  /** Presses a key with others held down. */
  async chord(key: string, ...held: ("Shift" | "Control" | "Alt")[]) {
    for (const each of held) await this.page.keyboard.down(each);
    await this.page.keyboard.press(key as "F");
    for (const each of held) await this.page.keyboard.up(each);
  }
}
