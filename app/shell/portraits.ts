import { plainContext } from "../../core/base/context";
import { zipFiles } from "../../core/formats/archive";
import type { Shots } from "../../core/ship/methods/shots";
import { shotsFor } from "../../core/ship/methods/shots";
import { Stopped } from "../stores/api";
import { useWorkshop } from "../stores/workshop";

/** Is told each picture as it comes, or null where the view has failed. */
export type Portrayed = (
  picture: { name: string; png: ArrayBuffer } | null,
) => void;

/** What takes pictures: the worker that draws the table. */
interface Taker {
  /** Whether all that is shown is there. */
  ready(): boolean;
  /** Asks for pictures, of some parts or all, which come one by one; null stops them. */
  ask(shots: Shots | null, parts: string[], got: Portrayed): void;
}

/** The view takes the pictures that go out with a delivery, and the workshop sends them. */
export function usePortraits({ ready, ask }: Taker): void {
  const workshop = useWorkshop();
  /** Tells who waits that no more pictures come. */
  let giveUp = () => {};
  workshop.portray = (operation, options) => {
    const wanted = shotsFor(operation, { ...options });
    if (!wanted || !ready()) return null;
    const { parts } = options as { parts?: string[] };
    return (told, signal) =>
      new Promise((resolve, reject) => {
        const awaited = new Set(wanted.shots.map(({ name }) => name));
        const taken: { name: string; bytes: Uint8Array }[] = [];
        giveUp = () => reject(new Error("the view has gone"));
        signal.addEventListener("abort", () => {
          ask(null, [], () => {});
          reject(new Stopped());
        });
        ask(wanted, [...(parts ?? [])], (picture) => {
          if (!picture) return reject(new Error("the view has failed"));
          const { name, png } = picture;
          // Those of a call before may still be on their way.
          if (!awaited.delete(name)) return;
          taken.push({ name: `${name}.png`, bytes: new Uint8Array(png) });
          told(taken.length / wanted.shots.length);
          if (awaited.size) return;
          const archive = zipFiles(taken, plainContext());
          resolve([new File([archive as BlobPart], "pictures.zip")]);
        });
      });
  };
  onBeforeUnmount(() => {
    workshop.portray = null;
    giveUp();
  });
}
