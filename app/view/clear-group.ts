import type { Group, Mesh } from "three";

/** Takes all out of a group and lets its geometry go. */
export function clearGroup(group: Group): void {
  for (const child of [...group.children]) {
    (child as Mesh).geometry.dispose();
    group.remove(child);
  }
}
