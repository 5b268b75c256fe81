/**
 * Keeps the keyboard's place. An action disables its button while it runs, or takes its row away: then the browser
 * drops the focus to the page, and a person without a mouse begins anew. This puts it back on what had it, or on what
 * has taken its place, as soon as that can take it.
 */
export function useKeptFocus() {
  let had: HTMLElement | null = null;
  let name = "";
  let region: Element | null = null;
  /** A press on the bare page lets go of the focus on purpose. */
  let letGo = false;
  let observer: MutationObserver | null = null;

  const nameOf = (element: Element) =>
    element.id ||
    element.getAttribute("aria-label") ||
    element.textContent?.trim() ||
    "";
  function receive(event: FocusEvent) {
    const target = event.target as HTMLElement;
    if (target === document.body) return;
    had = target;
    name = nameOf(target);
    region = target.closest(REGIONS);
    letGo = false;
  }
  function press(event: PointerEvent) {
    const target = event.target as HTMLElement;
    if (!target.closest("button, a, input, select, textarea, [tabindex]"))
      letGo = true;
  }
  const canTake = (element: HTMLElement) =>
    element.isConnected && !(element as HTMLButtonElement).disabled;
  function restore() {
    if (!had || letGo || !document.hasFocus()) return;
    const active = document.activeElement;
    if (active && active !== document.body) return;
    if (canTake(had)) return had.focus({ preventScroll: true });
    if (had.isConnected) return;
    const { tagName } = had;
    const room = region?.isConnected ? region : null;
    const twin = [
      ...(room ?? document).querySelectorAll<HTMLElement>(tagName),
    ].find((each) => nameOf(each) === name && canTake(each));
    (twin ?? (room as HTMLElement | null))?.focus({ preventScroll: true });
  }

  onMounted(() => {
    document.addEventListener("focusin", receive);
    document.addEventListener("pointerdown", press, true);
    observer = new MutationObserver(restore);
    observer.observe(document.body, {
      subtree: true,
      childList: true,
      attributes: true,
      attributeFilter: ["disabled"],
    });
  });
  onBeforeUnmount(() => {
    document.removeEventListener("focusin", receive);
    document.removeEventListener("pointerdown", press, true);
    observer?.disconnect();
  });
}

/** The areas of the page, in the order in which F6 goes through them. */
export const REGIONS = "[data-region]";

/** Goes to the next area, or back. @returns whether there was one */
export function nextRegion(back: boolean): boolean {
  const regions = [...document.querySelectorAll<HTMLElement>(REGIONS)].filter(
    (each) => each.offsetParent !== null,
  );
  if (!regions.length) return false;
  const at = regions.findIndex((each) => each.contains(document.activeElement));
  const to =
    at < 0
      ? back
        ? regions.length - 1
        : 0
      : (at + (back ? -1 : 1) + regions.length) % regions.length;
  regions[to].focus({ preventScroll: true });
  return true;
}
