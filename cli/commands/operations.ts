import { fieldsOf } from "../../core/asset/operation";
import { OPERATIONS } from "../../core/operations";
import { defineCommand } from "../command";

export const operations = defineCommand({
  name: "operations",
  words: "",
  about: "lists every operation with its options",
  flags: {},
  files: 0,
  async run() {
    return {
      operations: OPERATIONS.map((operation) => ({
        id: operation.id,
        title: operation.title,
        about: operation.about,
        stage: operation.stage,
        options: fieldsOf(operation),
      })),
    };
  },
});
