import { field } from "../../asset/operation";
import type { Rotation } from "./pack/types";
import { DEFAULT_ROUNDS } from "./pack";
import type { Deal, Together } from "./pack-meshes-options";
import { SheetOptions } from "./sheet-options";

/** Options of every operation that ends with islands on a sheet. */
export class PackOptions extends SheetOptions {
  @field({
    kind: "choice",
    label: "Rotate",
    help: "How islands may be turned while they are packed.",
    choices: [
      { value: "any", label: "any way" },
      { value: "right angles", label: "by right angles" },
      { value: "none", label: "not at all" },
    ],
    folded: true,
  })
  rotate: Rotation = "any";

  @field({
    kind: "number",
    label: "Search for",
    empty: "as long as rounds take",
    help: "Seconds spent on a tighter packing; 0 leaves it to the rounds. The rounds it took are recorded.",
    unit: "s",
    min: 0,
    max: 3600,
    folded: true,
  })
  seconds = 0;

  @field({
    kind: "integer",
    label: "Rounds",
    help: "Rounds of the search for a tighter packing, where no time is given.",
    min: 0,
    max: 1000000,
    folded: true,
  })
  rounds = DEFAULT_ROUNDS;

  @field({
    kind: "choice",
    label: "Keep together",
    help: "What is packed side by side as one block.",
    choices: [
      { value: "nothing", label: "nothing" },
      { value: "parts", label: "parts" },
      { value: "IDs", label: "IDs" },
    ],
    folded: true,
  })
  together: Together = "nothing";

  @field({
    kind: "integer",
    label: "Box small ones",
    empty: "none",
    help: "Islands smaller than this are packed side by side; 0 for none.",
    unit: "px",
    min: 0,
    max: 512,
    folded: true,
  })
  boxSmall = 0;

  @field({
    kind: "integer",
    label: "Tiles",
    brief: "sheets",
    help: "Sheets the islands are dealt out to, as UDIM tiles from 1001 on; 0 takes the brief's.",
    min: 0,
    max: 100,
    folded: true,
  })
  tiles = 0;

  @field({
    kind: "choice",
    label: "Deal out by",
    help: "What stays on one tile where there are several.",
    choices: [
      { value: "size", label: "size, evenly" },
      { value: "part", label: "part" },
      { value: "ID", label: "ID" },
    ],
    folded: true,
  })
  deal: Deal = "size";
}
