export { countParts } from "./count";
export { repair } from "./repair";
export { settleSources } from "./settle";
export { lookFromOutside } from "./look-from-outside";
export { leaveUnseen } from "./leave-unseen";
export { markSourceOnly } from "./source-only";
export { closeGaps } from "./close-gaps";
export { setShading } from "./set-shading";
export { linkRepeats, unlinkRepeats } from "./link-repeats";
export { placeCopies } from "./place-copies";
export { splitOff } from "./split-off";
export {
  joinParts,
  duplicateParts,
  deleteParts,
  renameParts,
  groupParts,
} from "./change-parts";
export { deleteFaces } from "./delete-faces";
export { mirrorParts } from "./mirror";
export { paintIds, editPalette } from "./paint-ids";
export { creaseEdges } from "./crease";
export { subdivideParts } from "./subdivide";
export { lighten, restoreDense } from "./lighten";
export { newSkin } from "./new-skin";
export { takeNoiseOut } from "./take-noise-out";
export { cutPieces } from "./cut-pieces";
