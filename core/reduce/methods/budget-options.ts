import type { Symmetry } from "../../mesh/symmetry";
import { SYMMETRIES } from "../../mesh/symmetry";
import { DEFAULT_WEIGHTS } from "../../decimate/collapse-planes";
import { field } from "../../asset/operation";
import type { Side } from "../../space/directions";
import { SIDES } from "../../space/directions";

export class ToBudgetOptions {
  @field({
    kind: "integer",
    label: "Triangles",
    brief: "triangles",
    help: "Budget over all parts together; 0 takes the brief's.",
    unit: "triangles",
    min: 0,
    max: 2000000,
  })
  triangles = 0;

  @field({
    kind: "choice",
    label: "Symmetry",
    help: "Works on one half and mirrors it, so that both sides are exactly alike.",
    choices: SYMMETRIES,
  })
  symmetry: Symmetry = "off";

  @field({
    kind: "choice",
    label: "Quads",
    help: "Whether triangles are joined into quads where they lie flat and square.",
    choices: [
      { value: "as the source", label: "as the source" },
      { value: "always", label: "where possible" },
      { value: "never", label: "none" },
    ],
  })
  quads: "as the source" | "always" | "never" = "as the source";

  @field({
    kind: "number",
    label: "Outline",
    help: "How much dearer what shows on the silhouette is.",
    min: 0,
    max: 4,
    step: 0.1,
    folded: true,
  })
  outline = 0;

  @field({
    kind: "choice",
    label: "Looked at",
    help: "From where the silhouette counts.",
    choices: SIDES,
    folded: true,
  })
  from: Side = "all round";

  @field({
    kind: "number",
    label: "Normals",
    help: "How much turning normals cost beside distance.",
    min: 0,
    max: 10,
    step: 0.1,
    folded: true,
  })
  normals = DEFAULT_WEIGHTS.normals;

  @field({
    kind: "number",
    label: "Borders",
    help: "How much open borders cost against the faces beside them.",
    min: 0,
    max: 100,
    step: 0.5,
    folded: true,
  })
  border = DEFAULT_WEIGHTS.border;

  @field({
    kind: "number",
    label: "Hard edges",
    help: "How much hard edges cost against the faces beside them.",
    min: 0,
    max: 100,
    step: 0.5,
    folded: true,
  })
  crease = DEFAULT_WEIGHTS.crease;

  @field({
    kind: "number",
    label: "Material and ID borders",
    help: "How much lines between materials and between IDs cost.",
    min: 0,
    max: 100,
    step: 0.5,
    folded: true,
  })
  region = DEFAULT_WEIGHTS.region;

  @field({
    kind: "number",
    label: "UV seams",
    help: "How much lines at which the source's UVs part cost.",
    min: 0,
    max: 100,
    step: 0.5,
    folded: true,
  })
  seam = DEFAULT_WEIGHTS.seam;

  @field({
    kind: "number",
    label: "Evenness",
    help: "0 puts triangles where the shape needs them, 1 makes them all alike.",
    min: 0,
    max: 1,
    step: 0.05,
    folded: true,
  })
  evenness = 0;

  @field({
    kind: "flag",
    label: "Painted density",
    help: "Takes what was painted finer and coarser into account.",
    folded: true,
  })
  density = true;

  @field({
    kind: "flag",
    label: "What nobody sees too",
    help: "Deals triangles out to what nobody sees from outside as well; off, that gets next to nothing.",
    folded: true,
  })
  unseen = false;

  @field({
    kind: "flag",
    label: "Smallest details too",
    help: "Keeps pieces, bridges and tunnels far smaller than a triangle will be, as scanning leaves them; off, they go.",
    folded: true,
  })
  smallest = false;

  @field({
    kind: "flag",
    label: "Broken shapes too",
    help: "Keeps parts that a budget under the knee of its curve breaks as they come; off, a simple shape stands for them where that is nearer, and shards are only baked.",
    folded: true,
  })
  broken = false;

  @field({
    kind: "flag",
    label: "Halve all",
    help: "With symmetry: also halves parts that are not symmetric themselves; what is behind the plane is lost.",
    folded: true,
  })
  halveAll = false;

  @field({
    kind: "flag",
    label: "Measure deviation",
    help: "Measures the distance between source and game meshes afterwards.",
    folded: true,
  })
  measure = true;
}
