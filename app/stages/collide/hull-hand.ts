import type { HullMove } from "../../../core/mesh/move-hull";
import type { Spot } from "../../shared/messages";
import { useView } from "../../stores/view";
import { useWorkshop } from "../../stores/workshop";

const mm = (metres: number) => Math.round(metres * 1e6) / 1e3;
const degrees = (radians: number) =>
  Math.round((radians / Math.PI) * 180 * 1e4) / 1e4;

/** What the options of an operation are called for a move by handles: millimetres, degrees, times. */
export function moveOptions({ move, turn, scale }: HullMove) {
  return {
    moveX: mm(move[0]),
    moveY: mm(move[1]),
    moveZ: mm(move[2]),
    turnX: degrees(turn[0]),
    turnY: degrees(turn[1]),
    turnZ: degrees(turn[2]),
    sizeX: scale[0],
    sizeY: scale[1],
    sizeZ: scale[2],
  };
}

/** A round length near a share of something: 1, 2 or 5 of a power of ten, mm. */
export function roundLength(length: number): number {
  const power = 10 ** Math.floor(Math.log10(Math.max(length, 1e-6)));
  const times = length / power;
  return power * (times < 1.5 ? 1 : times < 3.5 ? 2 : times < 7.5 ? 5 : 10);
}

/**
 * What hands do to hulls, as operations; what they make is chosen then.
 * @param putBack shows hulls where they are, where nothing became of a drag
 */
export function useHullHand(putBack: () => void = () => {}) {
  const view = useView();
  const workshop = useWorkshop();
  const names = () =>
    new Set(
      workshop.asset!.document.parts.flatMap(({ hulls }) =>
        hulls.map(({ name }) => name),
      ),
    );

  /** Runs an operation on the chosen hulls, and chooses what it made besides those that are left of them. */
  async function run(operation: string, options: object, chooses = true) {
    const before = names();
    const { id, revision } = workshop.asset!;
    await workshop.run(operation, options);
    // Somebody may have gone to another asset meanwhile.
    if (workshop.asset?.id !== id) return;
    if (workshop.asset.revision === revision) {
      putBack();
      return;
    }
    const now = names();
    const made = [...now].filter((name) => !before.has(name));
    view.chosenHulls =
      made.length && chooses
        ? made
        : view.chosenHulls.filter((name) => now.has(name));
  }
  const chosen = () => ({ hulls: [...view.chosenHulls] });

  return {
    /** Does something to the chosen hulls. */
    run: (operation: string, options: object = {}) =>
      run(operation, { ...chosen(), ...options }),
    /** Puts a box round chosen parts. */
    boxRound: (parts: readonly string[]) =>
      run("collide/place", { parts: [...parts], kind: "box" }),
    moved: (by: HullMove) =>
      run("collide/move", { ...chosen(), ...moveOptions(by) }),
    /** @param normal unit length; @param point metres */
    cut: async (normal: number[], point: number[]) => {
      view.armed = "";
      await run("collide/split", {
        ...chosen(),
        across: "plane",
        normalX: normal[0],
        normalY: normal[1],
        normalZ: normal[2],
        pointX: 1000 * point[0],
        pointY: 1000 * point[1],
        pointZ: 1000 * point[2],
      });
    },
    /** Puts the shape that is wanted where somebody clicked. */
    place: async ({ part, at, size }: Spot) => {
      const { armed: kind } = view;
      const found = workshop.asset!.document.parts.find(
        ({ name }) => name === part,
      );
      if (!kind || kind === "cut" || !found) return;
      view.armed = "";
      const [x, y, z] = at.map(mm);
      await run("collide/place", {
        parts: [found.repeat?.of ?? part],
        kind,
        size: roundLength(1000 * size),
        x,
        y,
        z,
      });
    },
  };
}
