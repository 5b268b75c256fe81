import { fieldsOf } from "../../core/asset/operation";
import { OPERATIONS } from "../../core/operations";
import { route } from "../answers";

/** Every operation with what its form needs. */
export default route(() =>
  Promise.resolve(
    OPERATIONS.map((operation) => ({
      id: operation.id,
      stage: operation.stage,
      title: operation.title,
      about: operation.about,
      runs: operation.runs,
      makesResult: Boolean(operation.makesResult),
      fields: fieldsOf(operation),
    })),
  ),
);
