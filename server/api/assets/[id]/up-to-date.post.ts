import { acceptJob } from "../../../answers";
import { UP_TO_DATE } from "../../../jobs/messages";

/** Queues running all stale stages again. */
export default acceptJob(UP_TO_DATE);
