import { defineOperation, field } from "../../asset/operation";
import type { ContactName } from "../../mesh/contacts";
import { CONTACT_NAMES, CONTACTS } from "../../mesh/contacts";
import { HandOptions, replaceHulls } from "../methods/hand-hulls";

class ContactOptions extends HandOptions {
  @field({
    kind: "choice",
    label: "Contact",
    help: "How the hull slides and springs: in the drop test, and in deliveries that say it.",
    choices: [
      { value: "none", label: "nothing said" },
      ...CONTACT_NAMES.map((value) => ({
        value,
        label: `${value}: friction ${CONTACTS[value].friction}, bounce ${CONTACTS[value].restitution}`,
      })),
    ],
  })
  contact: ContactName | "none" = "none";
}

export const giveContact = defineOperation({
  id: "collide/contact",
  stage: "collide",
  title: "Give hulls a contact material",
  about: "Says what chosen hulls feel like to bump into.",
  runs: "instant",
  takes: "game",
  makesResult: false,
  updates: "collide/hulls",
  Options: ContactOptions,
  run(asset, { hulls, contact }, context) {
    return replaceHulls(
      asset,
      hulls,
      (hull) => {
        const { contact: before, ...bare } = hull;
        if ((before ?? "none") === contact) return [hull];
        return [contact === "none" ? bare : { ...bare, contact }];
      },
      context,
    );
  },
});
