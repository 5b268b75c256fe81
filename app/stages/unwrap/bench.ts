import { percent, spaced } from "../../components/figures";
import type { Finding } from "../../components/figures";
import type { BenchPlan } from "../bench";
import { needGame, numbersOf } from "../bench";

export const unwrap: BenchPlan = {
  about: "Cut, unfold, even out, pack.",
  main: "unwrap/unwrap",
  more: ["unwrap/pack"],
  missing: needGame,
  figures(asset, { report }) {
    const n = numbersOf(report);
    const wanted = asset.document.brief.texelsPerMetre;
    return [
      {
        label: "Fill",
        value: percent(n("fill")),
        limit: "≥ 60\u2009%",
        state: n("fill") >= 0.6 ? "good" : "warn",
      },
      {
        label: "Stretch",
        value: n("stretch").toFixed(3),
        limit: "≤ 1.150",
        state: n("stretch") <= 1.15 ? "good" : "warn",
      },
      {
        label: "Density",
        value: `${spaced(n("density"))} texels/m`,
        limit: wanted ? `${spaced(wanted)} wanted` : "as fits",
      },
      {
        label: "Density spread",
        value: percent(n("densitySpread")),
        limit: "≤ 10\u2009%",
        state: n("densitySpread") <= 0.1 ? "good" : "warn",
      },
      { label: "Islands", value: spaced(n("islands")) },
      {
        label: "Overlap",
        value: percent(n("overlap"), 2),
        limit: "0",
        state: n("overlap") ? "bad" : "good",
      },
      {
        label: "Flipped",
        value: spaced(n("flipped")),
        limit: "0",
        state: n("flipped") ? "bad" : "good",
      },
    ];
  },
  findings(asset): Finding[] {
    const bare = asset.document.parts.filter(
      (part) => part.game && !part.game.streams.uvs,
    );
    if (!bare.length) return [];
    return [
      {
        tone: "warn",
        text: `${bare.length} of ${asset.document.parts.length} parts have no UVs yet`,
        parts: bare.map((part) => part.name),
      },
    ];
  },
};
