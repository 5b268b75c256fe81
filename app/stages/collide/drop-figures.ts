import { PLACES } from "../../../core/collide/methods/feel";
import type { Feel, FeltPlace } from "../../../core/collide/methods/feel";
import type { FiredBalls } from "../../../core/collide/methods/fired-balls";
import type { Trial, TrialName } from "../../../core/collide/methods/trials";
import { changedSince } from "../../../core/asset/stale";
import type { AssetDocument } from "../../../core/asset/document";
import type { FigureRow, Finding } from "../../shared/figures";
import { counted, length, percent, spaced } from "../../shared/figures";

/** Trials of the drop test as people read them. */
export const TRIAL_WORDS: Record<TrialName, string> = {
  placed: "Put down",
  dropped: "Dropped",
  pushed: "Pushed",
  rolled: "Rolled",
  stacked: "One on another",
  slope: "On the slope",
  steps: "On steps",
};

/** What the drop test told of the present hulls; null where it has not been made for them. */
function keptOf(document: AssetDocument) {
  const kept = document.reports["collide/drop"];
  return kept && !changedSince(kept, document).length ? kept.report : null;
}

/** When the asset rests in every trial, and whether it stands. */
export function dropRows(document: AssetDocument): FigureRow[] {
  const report = keptOf(document);
  if (!report) return [];
  const trials = report.trials as Trial[];
  const stands = report.stands === true;
  const balls = report.balls as FiredBalls | undefined;
  const feel = report.feel as Feel | undefined;
  return [
    {
      label: "Stands where it is put",
      value: stands ? "yes" : "no",
      state: stands ? "good" : "warn",
    },
    ...trials.map(({ name, restSeconds, fellThrough }): FigureRow => {
      const level = name !== "slope" && name !== "steps";
      return {
        label: `${TRIAL_WORDS[name]}, rests after`,
        value: fellThrough
          ? "fell through"
          : restSeconds === null
            ? "never"
            : `${restSeconds.toFixed(1)} s`,
        // On a slope and steps it may well slide on.
        ...(level && { limit: "≤ 5 s" }),
        state: fellThrough
          ? "bad"
          : level && (restSeconds ?? 9) > 5
            ? "warn"
            : undefined,
      };
    }),
    ...(report.centreOfMass
      ? [
          {
            label: "Centre of mass, above the origin",
            value: length((report.centreOfMass as number[])[1]),
          },
        ]
      : []),
    {
      label: "Lies in what it meets",
      value: length(Number(report.penetrationMetres)),
      limit: "≤ 2 mm",
      state: Number(report.penetrationMetres) > 0.002 ? "warn" : "good",
    },
    ...(balls ? ballRows(balls) : []),
    ...(feel ? feelRows(feel) : []),
  ];
}

/** How much of what is open stays open to a ball, and whether hulls are where the mesh is. */
const ballRows = ({
  diameter,
  gaps,
  stopped,
  solid,
  missed,
}: FiredBalls): FigureRow[] => [
  {
    label: `Gaps open to a ball of ${length(diameter)}`,
    value: gaps ? percent(1 - stopped / gaps, 0) : "no gaps",
    state: stopped ? "warn" : "good",
  },
  {
    label: "Shots that hulls miss",
    value: percent(solid ? missed / solid : 0),
  },
];

/** How far one stands in the air on hulls, and how high a lip between them is that the mesh has not. */
const feelRows = ({ hovers, lip, lipPlaces }: Feel): FigureRow[] => [
  { label: "One stands above the mesh by", value: length(hovers) },
  {
    label: "Lips that one catches on",
    value: lipPlaces.length ? `up to ${length(lip)}` : "none",
    state: lipPlaces.length ? "warn" : "good",
  },
];

/** Places of a finding, each so large that it is seen. */
const placesOf = (places: FeltPlace[]) =>
  places.map(({ at, height }) => ({
    part: "",
    at: [...at] as [number, number, number],
    radius: Math.max(2 * height, 1e-4),
    faces: "",
    edges: [],
    vertices: [],
  }));

/** Where hulls feel otherwise than the mesh looks. */
const feelFindings = ({
  hovers,
  hoverPlaces,
  lip,
  lipPlaces,
}: Feel): Finding[] => [
  ...(lipPlaces.length
    ? [
        {
          tone: "note" as const,
          text: `one who slides along hulls catches on lips of up to ${length(lip)} that the mesh has not, in ${lipPlaces.length < PLACES ? counted(lipPlaces.length, "place") : `${PLACES} places or more`}: merge the hulls there, or level them by hand`,
          places: placesOf(lipPlaces),
        },
      ]
    : []),
  ...(hoverPlaces.length
    ? [
        {
          tone: "note" as const,
          text: `one who stands on hulls hovers up to ${length(hovers)} above the mesh`,
          places: placesOf(hoverPlaces),
        },
      ]
    : []),
];

/** What the drop test found, as findings. */
export function dropFindings(document: AssetDocument): Finding[] {
  const report = keptOf(document);
  const balls = report?.balls as FiredBalls | undefined;
  const feel = report?.feel as Feel | undefined;
  return [
    ...(feel ? feelFindings(feel) : []),
    ...((report?.troubles ?? []) as string[]).map((text): Finding => ({
      tone: "warn",
      text: `Drop test: ${text}`,
    })),
    ...(balls?.stopped
      ? [
          {
            tone: "note" as const,
            text: `hulls stop a ball of ${length(balls.diameter)} where the mesh is open: ${counted(balls.stopped, "shot")} of ${spaced(balls.gaps)}`,
            places: balls.places.map((at) => ({
              part: "",
              at: [...at] as [number, number, number],
              radius: balls.diameter / 2,
              faces: "",
              edges: [],
              vertices: [],
            })),
            mend: {
              label: "Keep them open",
              operation: "collide/hulls",
              options: {
                ...document.results.collide?.options,
                smallestGap: 1000 * balls.diameter,
              },
            },
          },
        ]
      : []),
  ];
}
