import { defineOperation } from "../../asset/operation";
import { HandOptions, replaceHulls } from "../methods/hand-hulls";

export const removeHulls = defineOperation({
  id: "collide/remove",
  stage: "collide",
  title: "Remove hulls",
  about: "Takes chosen hulls away.",
  runs: "instant",
  takes: "game",
  makesResult: false,
  updates: "collide/hulls",
  Options: HandOptions,
  run(asset, { hulls }, context) {
    return replaceHulls(asset, hulls, () => [], context);
  },
});
