import { defineStore } from "pinia";
import type { FromView, OutlinePicture } from "../shared/messages";
import type { UvFacts } from "../shared/view-types";

type Answer<Kind extends FromView["kind"]> = Omit<
  Extract<FromView, { kind: Kind }>,
  "kind"
>;

/** What the view's worker says of what it shows. */
export const useAnswers = defineStore("answers", {
  state: () => ({
    outlines: [] as OutlinePicture[],
    preview: null as Answer<"preview"> | null,
    /** What splits cost and where hard edges lack one, as the view counts it. */
    facts: null as UvFacts | null,
    /** The seam that is being traced, or the region about to be cut out. */
    trace: null as Answer<"trace"> | null,
    /** Why the last click of tracing was not taken. */
    traceRefused: "",
    /** How the seams that are being drawn would lay out. */
    tried: null as Answer<"tried"> | null,
    /** What the trial of a bake comes to so far. */
    bakeTrial: null as Answer<"bake-trial"> | null,
    /** Whether a handle of hulls lies under the pointer, and what dragging it comes to so far. */
    overHandle: false,
    hullDrag: "",
    /** The trial of the drop test that is played, or was and still lies there. */
    dropped: null as Answer<"dropped"> | null,
    /** What looking from outside found under the threshold, as the view counts it. */
    unseen: null as Answer<"unseen"> | null,
  }),
});
