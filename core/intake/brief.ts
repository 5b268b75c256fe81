import { DEFAULT_BRIEF, PROFILES } from "../asset/asset";
import { safeName } from "../formats/raw-mesh";
import { defineOperation, field } from "../operation";

class BriefOptions {
  @field({
    kind: "text",
    label: "Name",
    help: "Names the asset and the files it is shipped in; empty keeps the name.",
    max: 80,
  })
  name = "";

  @field({
    kind: "integer",
    label: "Triangles",
    help: "Budget of the whole asset.",
    unit: "triangles",
    min: 4,
    max: 2000000,
  })
  triangles = DEFAULT_BRIEF.triangles;

  @field({
    kind: "choice",
    label: "Sheet",
    help: "Edge of the square sheet that all parts share.",
    unit: "px",
    choices: ["256", "512", "1024", "2048", "4096"].map((value) => ({
      value,
      label: `${value} × ${value}`,
    })),
  })
  sheet = String(DEFAULT_BRIEF.sheetSize);

  @field({
    kind: "integer",
    label: "Padding",
    help: "Free texels round every island.",
    unit: "px",
    min: 0,
    max: 64,
  })
  padding = DEFAULT_BRIEF.padding;

  @field({
    kind: "number",
    label: "Texel density",
    help: "Wanted texels per metre; 0 takes as many as fit.",
    unit: "texels/m",
    min: 0,
    max: 100000,
  })
  density = DEFAULT_BRIEF.texelsPerMetre;

  @field({
    kind: "integer",
    label: "Hulls",
    help: "Collision hulls allowed.",
    min: 1,
    max: 256,
  })
  hulls = DEFAULT_BRIEF.hulls;

  @field({
    kind: "choice",
    label: "Delivery profile",
    help: "Axes, unit and green channel of what is shipped.",
    choices: PROFILES.map(({ name }) => ({ value: name, label: name })),
  })
  profile = DEFAULT_BRIEF.profile;
}

export const setBrief = defineOperation({
  id: "intake/brief",
  stage: "intake",
  title: "Set the brief",
  about: "Sets the limits and wishes the asset is made to.",
  runs: "instant",
  takes: "source",
  makesResult: false,
  Options: BriefOptions,
  run(asset, options) {
    const brief = {
      triangles: options.triangles,
      sheetSize: Number(options.sheet),
      padding: options.padding,
      texelsPerMetre: options.density,
      hulls: options.hulls,
      profile: options.profile,
    };
    return {
      asset: {
        ...asset,
        name: options.name.trim()
          ? safeName(options.name.trim(), asset.name)
          : asset.name,
        brief,
      },
      headline: "",
      report: { ...brief },
    };
  },
});
