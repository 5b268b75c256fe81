/** Follows the pointer from a press until it is let go, wherever on the page that is. */
export function followPointer(
  event: PointerEvent,
  follow: (to: PointerEvent) => void,
): void {
  const end = () => {
    window.removeEventListener("pointermove", follow);
    window.removeEventListener("pointerup", end);
  };
  window.addEventListener("pointermove", follow);
  window.addEventListener("pointerup", end);
  event.preventDefault();
}
