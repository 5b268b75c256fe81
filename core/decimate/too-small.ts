import { closeHandles } from "./handles/close-handles";
import type { Mesh } from "../mesh/mesh";
import { withoutSmallPieces } from "./small-pieces";
import type { Soup, SoupPlace } from "./soup";
import { triangleArea } from "../space/sample";
import { spaced } from "../base/wording";

/** Of the length of the edges to come: a piece smaller than this goes, a handle within a ball of this is closed. */
const PIECE = 0.4;
const HANDLE = 0.5;
/** Neither reaches farther than so many edges of the source: what does was made on purpose. */
const OWN_EDGES = 6;

/** Where pieces went and handles were closed that are far smaller than the triangles to come. */
export interface TooSmall {
  pieces: readonly SoupPlace[];
  handles: readonly SoupPlace[];
  /** How long the edges to come are, metres. */
  edge: number;
}

export const NONE_TOO_SMALL: TooSmall = { pieces: [], handles: [], edge: 0 };

/**
 * Leaves out pieces and closes handles that are far smaller than the triangles to come.
 * @param budget triangles to come
 * @param staysIn per triangle of a soup whether it is left as it is, or null for none
 */
export function withoutTooSmall(
  soup: Soup,
  meshes: readonly Mesh[],
  budget: number,
  staysIn: (soup: Soup) => ArrayLike<number> | null,
  check: () => void,
): TooSmall & { soup: Soup } {
  const edge = edgeLength(seenArea(soup, meshes), budget);
  const own = ownEdges(soup, meshes.length);
  const within = (share: number) =>
    own.map((length) => Math.min(share * edge, OWN_EDGES * length));
  const large = withoutSmallPieces(
    soup,
    { sizes: within(PIECE), edges: own, together: edge },
    staysIn(soup),
  );
  check();
  const whole = closeHandles(
    large.soup,
    within(HANDLE),
    staysIn(large.soup),
    check,
  );
  return {
    soup: whole.soup,
    pieces: large.places,
    handles: whole.places,
    edge,
  };
}

/** How long the edges are where so many equal triangles cover an area, metres. */
const edgeLength = (area: number, triangles: number) =>
  Math.sqrt((4 * area) / (Math.sqrt(3) * Math.max(1, triangles)));

function seenArea(
  { positions, triangles, owner, face }: Soup,
  meshes: readonly Mesh[],
): number {
  let area = 0;
  for (let t = 0; t < owner.length; t++)
    if (meshes[owner[t]].visibility?.[face[t]] !== 0)
      area += triangleArea(positions, triangles, t);
  return area;
}

/** How long the edges of each mesh are about, metres. */
function ownEdges({ positions, triangles, owner }: Soup, count: number) {
  const areas = new Float64Array(count);
  const counts = new Float64Array(count);
  for (let t = 0; t < owner.length; t++) {
    areas[owner[t]] += triangleArea(positions, triangles, t);
    counts[owner[t]]++;
  }
  return areas.map((area, m) => edgeLength(area, counts[m]));
}

/** How much was too small, as reports say it. */
export interface TooSmallCounts {
  pieces: number;
  handles: number;
}

/** What was too small, in words; null where nothing was. */
export function tooSmallWords({
  pieces,
  handles,
}: TooSmallCounts): string | null {
  const counted = (n: number, one: string, several: string) =>
    n ? [`${spaced(n)} ${n === 1 ? one : several}`] : [];
  const both = [
    ...counted(pieces, "loose piece", "loose pieces"),
    ...counted(handles, "bridge or tunnel", "bridges and tunnels"),
  ].join(" and ");
  return both
    ? `${both} far smaller than a triangle left out: what is near the rest is baked`
    : null;
}
