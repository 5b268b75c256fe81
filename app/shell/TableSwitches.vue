<script setup lang="ts">
import { SEEN_KINDS, MAP_TITLES } from "../../core/base/pictures";
import type { CompareBy, Overlay, Show } from "../shared/view-types";
import { sheetShown } from "../shared/sheet-shown";
import { useView } from "../stores/view";
import { useWorkshop } from "../stores/workshop";

/** What the table and the sheet show: switches on their lower edge. */
const props = defineProps<{ over: "table" | "sheet"; effective: Show }>();
const view = useView();
const workshop = useWorkshop();
const document = computed(() => workshop.asset!.document);
const some = (is: (part: (typeof document.value.parts)[number]) => unknown) =>
  document.value.parts.some((part) => is(part));
const hasGame = computed(() => some((part) => part.game));
const hasSource = computed(() => some((part) => part.source));
const hasUvs = computed(() => some((part) => part.game?.streams.uvs));

interface Choice {
  label: string;
  on: boolean;
  usable: boolean;
  act(): void;
}
const show = (value: Show, label: string, usable: boolean): Choice => ({
  label,
  usable,
  on: props.effective === value,
  act: () => void (view.show = value),
});
type Flag =
  | "wire"
  | "seams"
  | "hard"
  | "checker"
  | "hulls"
  | "hullSolid"
  | "cage"
  | "sheet"
  | "figure"
  | "references";
const flag = (name: Flag, label: string, usable: boolean): Choice => ({
  label,
  usable,
  on: view[name] && usable,
  act: () => void (view[name] = !view[name]),
});
const overlay = (value: Overlay, label: string, usable: boolean): Choice => ({
  label,
  usable,
  on: view.overlay === value && usable,
  act: () => void (view.overlay = view.overlay === value ? "none" : value),
});
const compareBy = (value: CompareBy): Choice => ({
  label: value,
  usable: true,
  on: view.compareBy === value,
  act: () => void (view.compareBy = value),
});
const turnNormals = () =>
  void (view.normals =
    view.normals === "off"
      ? "faces"
      : view.normals === "faces"
        ? "vertices"
        : "off");
/** The scale of stretch that was last shown. */
let scale: "angles" | "areas" = "angles";
function turnStretch() {
  const { overlay: now } = view;
  if (now === "angles" || now === "areas") {
    scale = now;
    view.overlay = "none";
  } else view.overlay = scale;
}
const seen = computed(() =>
  some(
    (part) => part.source?.streams.visibility || part.game?.streams.visibility,
  ),
);
/** Whether a source has colours, pictures or several materials of its own. */
const ownLook = computed(
  () =>
    document.value.looks.some((look) => look.pictures) ||
    some(
      ({ source }) =>
        source && (source.streams.colours || source.materials.length > 1),
    ) ||
    document.value.looks.length > 1,
);
const early = computed(() => ["intake", "survey"].includes(view.stage));
const normals = (usable: boolean): Choice => ({
  label: view.normals === "vertices" ? "vertex normals" : "normals",
  usable,
  on: view.normals !== "off",
  act: turnNormals,
});
const tableGroups = computed((): Choice[][] => [
  [
    ...(view.other
      ? [show("revisions", view.other.title.slice(0, 18), true)]
      : []),
    show("compare", "compare", hasGame.value && hasSource.value),
    show("source", "source", hasSource.value),
    show("game", "game", hasGame.value),
    show("baked", "baked", hasGame.value),
  ],
  ...(props.effective === "compare" && view.stage === "reduce"
    ? [[compareBy("divider"), compareBy("overlay"), compareBy("blink")]]
    : []),
  early.value ? overSources() : overGame(),
  ...(view.stage === "unwrap"
    ? [
        [
          {
            label: "stretch",
            usable: hasUvs.value,
            on: ["angles", "areas"].includes(view.overlay),
            act: turnStretch,
          },
          overlay("texels", "density", hasUvs.value),
        ],
      ]
    : []),
]);
/** What can lie over the sources, before there is a game mesh. */
function overSources(): Choice[] {
  return [
    flag("wire", "wire", true),
    normals(true),
    flag(
      "hard",
      "hard edges",
      some((part) => part.source?.streams.hard || part.game),
    ),
    overlay("own", "own look", ownLook.value),
    overlay("polygons", "polygons", true),
    overlay("ids", "IDs", document.value.palette.length > 0),
    overlay("seen", "seen", seen.value),
    flag("figure", "figure", true),
    ...(document.value.references.length
      ? [flag("references", "pictures", true)]
      : []),
  ];
}
/** What can lie over game meshes, by the stage. */
function overGame(): Choice[] {
  const hulls = () =>
    flag(
      "hulls",
      "hulls",
      some((part) => part.hulls.length),
    );
  return [
    flag("wire", "wire", hasGame.value),
    // Where it was left on.
    ...(view.overlay === "own" ? [overlay("own", "own look", true)] : []),
    flag("seams", "seams", hasUvs.value),
    flag("hard", "hard edges", hasGame.value),
    ...(view.stage === "reduce"
      ? [
          overlay("distance", "distance", hasGame.value && hasSource.value),
          overlay("quality", "quality", hasGame.value),
          overlay("polygons", "polygons", hasGame.value),
          overlay(
            "density",
            "density",
            some((part) => part.source?.streams.density),
          ),
        ]
      : [flag("checker", "checker", hasUvs.value)]),
    ...(view.stage === "edges" ? [normals(hasGame.value)] : []),
    ...(view.stage === "bake" ? [flag("cage", "cage", hasGame.value)] : []),
    ...(["bake", "finish"].includes(view.stage) &&
    document.value.maps.length &&
    view.sheet
      ? [
          overlay(
            "map",
            "map",
            !["islands", "checker"].includes(
              sheetShown(view.sheetShows, document.value),
            ),
          ),
        ]
      : []),
    ...(["edges", "unwrap", "bake"].includes(view.stage) ? [] : [hulls()]),
    ...(view.stage === "collide"
      ? [
          flag(
            "hullSolid",
            "solid",
            view.hulls && some((part) => part.hulls.length),
          ),
          overlay(
            "standoff",
            "stand-off",
            view.hulls && some((part) => part.hulls.length),
          ),
        ]
      : []),
    flag("sheet", "sheet", hasUvs.value),
  ];
}
const sheet = (
  value: typeof view.sheetShows,
  label: string,
  usable: boolean,
): Choice => ({
  label,
  usable,
  on: sheetShown(view.sheetShows, document.value) === value,
  act: () => void (view.sheetShows = value),
});
const hasMap = (kind: string) =>
  document.value.maps.some((map) => map.kind === kind);
const sheetGroups = computed((): Choice[][] => [
  [
    sheet("islands", "islands", true),
    sheet("checker", "checker", true),
    sheet("normal", MAP_TITLES.normal, hasMap("normal")),
    sheet("ao", MAP_TITLES.ao, hasMap("ao")),
    ...SEEN_KINDS.filter(
      (kind) => kind !== "normal" && kind !== "ao" && hasMap(kind),
    ).map((kind) => sheet(kind, MAP_TITLES[kind], true)),
    ...(document.value.painted ? [sheet("painted", "painted", true)] : []),
  ],
]);
</script>

<template>
  <div class="switches" role="toolbar" :aria-label="`What the ${over} shows`">
    <span
      v-for="(group, i) in over === 'table' ? tableGroups : sheetGroups"
      :key="i"
      class="switch-group"
    >
      <button
        v-for="each in group"
        :key="each.label"
        :class="{ on: each.on }"
        :aria-pressed="each.on"
        :disabled="!each.usable"
        @click="each.act"
      >
        {{ each.label }}
      </button>
    </span>
  </div>
</template>

<style scoped>
.switches {
  display: flex;
  gap: 6px;
  flex-wrap: wrap;
  justify-content: center;
}
.switch-group {
  flex-wrap: wrap;
}
</style>
