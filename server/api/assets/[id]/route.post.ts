import { acceptJob } from "../../../answers";
import { RUN_ROUTE } from "../../../jobs/messages";

/** Queues going through all stages that have what they need. */
export default acceptJob(RUN_ROUTE);
