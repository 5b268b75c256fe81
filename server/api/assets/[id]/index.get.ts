import { describeAsset, numberParam, route } from "../../../answers";

export default route((event, home) =>
  describeAsset(numberParam(event, "id"), home),
);
