import { MissingInputError } from "../../base/errors";
import { pictureSize } from "../../formats/picture";
import { safeName } from "../../formats/raw-mesh";
import { defineOperation } from "../../asset/operation";

class NoOptions {}

export const paintIn = defineOperation({
  id: "unwrap/paint-in",
  stage: "unwrap",
  title: "Bring a painted picture in",
  about:
    "Shows a PNG or JPEG painted after the sheet on the model. One of another aspect is fitted into the sheet, never squeezed.",
  runs: "heavy",
  takes: "game",
  asks: "pictures",
  makesResult: false,
  Options: NoOptions,
  run(asset, _, context) {
    const [file] = context.files ?? [];
    if (!file) throw new MissingInputError("there is no picture to show");
    const size = pictureSize(file.name, file.bytes);
    const painted = {
      name: safeName(file.name, "picture"),
      ...size,
      bytes: file.bytes.slice(),
    };
    return {
      asset: { ...asset, painted },
      headline: "",
      report: { painted: painted.name, width: size.width, height: size.height },
    };
  },
});

export const paintOut = defineOperation({
  id: "unwrap/paint-out",
  stage: "unwrap",
  title: "Take the painted picture out",
  about: "Forgets the picture that was painted after the sheet.",
  runs: "instant",
  takes: "game",
  makesResult: false,
  Options: NoOptions,
  run(asset) {
    return { asset: { ...asset, painted: null }, headline: "", report: {} };
  },
});
