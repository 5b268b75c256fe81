import type { Brief } from "../../../core/asset/asset";
import { profileOf } from "../../../core/asset/profile";
import { UNITS } from "../../../core/asset/units";
import type { OperationInfo } from "../../shared/types";

/** What the operation that sets profiles would say of the one that a brief goes by. */
export function profileOptions(
  brief: Pick<Brief, "profile">,
  { fields }: Pick<OperationInfo, "fields">,
): Record<string, unknown> {
  const { name, upAxis, unit, greenUp, ship } = profileOf(brief);
  return {
    ...Object.fromEntries(fields.map((each) => [each.name, each.default])),
    ...ship,
    name,
    up: upAxis,
    unit: UNITS.find(({ metres }) => metres === unit)?.value ?? "m",
    green: greenUp ? "up" : "down",
  };
}
