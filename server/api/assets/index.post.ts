import { createAsset, UNNAMED } from "../../../core/asset/asset";
import { safeName } from "../../../core/formats/raw-mesh";
import { describeAsset, jsonBody, route } from "../../answers";

/** Makes an empty asset. */
export default route(async (event, home) => {
  const { name } = await jsonBody(event);
  const row = await home.store.createAsset(
    createAsset(safeName(typeof name === "string" ? name : "", UNNAMED)),
    "Began the asset",
  );
  return describeAsset(row.id, home);
});
