import type { Stage } from "../../core/asset/stages";
import type { BenchPlace } from "../shared/bench";
import BroughtMaps from "./bake/BroughtMaps.vue";
import CageTools from "./bake/CageTools.vue";
import JudgeBake from "./bake/JudgeBake.vue";
import SpreadTools from "./bake/SpreadTools.vue";
import TryBake from "./bake/TryBake.vue";
import DropPlayer from "./collide/DropPlayer.vue";
import HullPanel from "./collide/HullPanel.vue";
import EdgeMarks from "./edges/EdgeMarks.vue";
import LookList from "./finish/LookList.vue";
import BriefForm from "./intake/BriefForm.vue";
import BringIn from "./intake/BringIn.vue";
import BringOver from "./intake/BringOver.vue";
import MatchNames from "./intake/MatchNames.vue";
import ReferenceList from "./intake/ReferenceList.vue";
import BudgetCurve from "./reduce/BudgetCurve.vue";
import DensityBrush from "./reduce/DensityBrush.vue";
import JudgePanel from "./reduce/JudgePanel.vue";
import LoopSlider from "./reduce/LoopSlider.vue";
import SpareList from "./reduce/SpareList.vue";
import StandInList from "./reduce/StandInList.vue";
import TriedDetails from "./reduce/TriedDetails.vue";
import ProfilePanel from "./ship/ProfilePanel.vue";
import ShipFile from "./ship/ShipFile.vue";
import EdgeHistogram from "./survey/EdgeHistogram.vue";
import PaletteList from "./survey/PaletteList.vue";
import SubdividePreview from "./survey/SubdividePreview.vue";
import TriedNoise from "./survey/TriedNoise.vue";
import UnseenFaces from "./survey/UnseenFaces.vue";
import { NOISE } from "./survey/settled-rows";
import IslandTools from "./unwrap/IslandTools.vue";
import PaintPicture from "./unwrap/PaintPicture.vue";
import RepeatGroups from "./unwrap/RepeatGroups.vue";
import SeamTools from "./unwrap/SeamTools.vue";

/** The components of each stage's own, in the order in which they stand on its bench. */
export const PLACES: Partial<Record<Stage, readonly BenchPlace[]>> = {
  intake: [
    { component: BringIn, at: "main", operation: "intake/bring-in" },
    { component: BriefForm, at: "main" },
    { component: MatchNames, at: "last", operation: "intake/match" },
    { component: ReferenceList, at: "last", operation: "intake/add-reference" },
    { component: BringOver, at: "last", operation: "intake/bring-over" },
  ],
  survey: [
    { component: EdgeHistogram, at: "last", ofResult: true },
    { component: UnseenFaces, at: "last" },
    { component: PaletteList, at: "last" },
    { component: SubdividePreview, at: "Source" },
    { component: TriedNoise, at: NOISE },
  ],
  reduce: [
    { component: BudgetCurve, at: "below main" },
    { component: JudgePanel, at: "last" },
    { component: DensityBrush, at: "Density" },
    {
      component: LoopSlider,
      at: "reduce/thin-loops",
      unfolded: true,
    },
    { component: StandInList, at: "reduce/stand-in" },
    { component: SpareList, at: "reduce/find-spares" },
    { component: TriedDetails, at: "reduce/try-both" },
  ],
  edges: [{ component: EdgeMarks, at: "below main", operation: "edges/mark" }],
  unwrap: [
    {
      component: SeamTools,
      at: "Seams",
      operation: "unwrap/set-seams",
    },
    { component: IslandTools, at: "Place" },
    { component: RepeatGroups, at: "unwrap/find-repeats" },
    {
      component: PaintPicture,
      at: "unwrap/template",
      operation: "unwrap/paint-in",
    },
  ],
  bake: [
    { component: TryBake, at: "below main" },
    { component: JudgeBake, at: "last", operation: "bake/look-off" },
    { component: SpreadTools, at: "last" },
    { component: BroughtMaps, at: "last", operation: "bake/bring-map" },
    { component: CageTools, at: "Cage", operation: "bake/bring-cage" },
  ],
  finish: [{ component: LookList, at: "main", operation: "finish/look" }],
  collide: [
    { component: HullPanel, at: "below main", operation: "collide/place" },
    { component: DropPlayer, at: "last" },
  ],
  ship: [
    { component: ShipFile, at: "below main" },
    { component: ProfilePanel, at: "below main", operation: "ship/profile" },
  ],
};
