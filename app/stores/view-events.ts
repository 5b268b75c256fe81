import mitt from "mitt";
import type { TrialName } from "../../core/collide/methods/trials";

/** What happens once between the page and its view, where a state would not do: two alike in a row are two. */
interface ViewEvents extends Record<string | symbol, unknown> {
  /** The view has loaded all there is. */
  loaded: undefined;
  /** The page itself turned the camera. */
  turned: undefined;
  /** Everything chosen was let go: what was being traced goes too. */
  cleared: undefined;
  /** A trial of the drop test is to be played; null puts everything back. */
  drop: { trial: TrialName | null; slope: number; friction: number };
  /** The page itself chose faces: in short form by part. What the view chose is no news to it. */
  chosen: { faces: Record<string, string>; of: "source" | "game" };
}

export const viewEvents = mitt<ViewEvents>();

/** Listens to an event of the view while a component is there. */
export function useViewEvent<Name extends keyof ViewEvents>(
  name: Name,
  hear: (event: ViewEvents[Name]) => void,
): void {
  viewEvents.on(name, hear);
  onScopeDispose(() => viewEvents.off(name, hear));
}
