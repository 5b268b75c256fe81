export { countParts } from "./operations/count";
export { repair } from "./operations/repair";
export { settleSources } from "./operations/settle";
export { lookFromOutside } from "./operations/look-from-outside";
export { leaveUnseen } from "./operations/leave-unseen";
export { markSourceOnly } from "./operations/source-only";
export { closeGaps } from "./operations/close-gaps";
export { setShading } from "./operations/set-shading";
export { linkRepeats, unlinkRepeats } from "./operations/link-repeats";
export { placeCopies } from "./operations/place-copies";
export { splitOff } from "./operations/split-off";
export {
  joinParts,
  duplicateParts,
  deleteParts,
  renameParts,
  groupParts,
} from "./operations/change-parts";
export { deleteFaces } from "./operations/delete-faces";
export { mirrorParts } from "./operations/mirror";
export { paintIds, editPalette } from "./operations/paint-ids";
export { creaseEdges } from "./operations/crease";
export { subdivideParts } from "./operations/subdivide";
export { lighten, restoreDense } from "./operations/lighten";
export { newSkin } from "./operations/new-skin";
export { takeNoiseOut } from "./operations/take-noise-out";
export { cutPieces } from "./operations/cut-pieces";
