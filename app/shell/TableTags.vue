<script setup lang="ts">
import { spaced } from "../shared/figures";
import { besideOf } from "../shared/view-types";
import { useView } from "../stores/view";
import { useWorkshop } from "../stores/workshop";

/** What is seen at either side of the table, and of how many triangles it is. */
const props = defineProps<{
  effective: string;
  /** Whether the detail as geometry is held against the detail as a map. */
  trying: boolean;
  comparing: boolean;
}>();
const view = useView();
const workshop = useWorkshop();
const parts = computed(() => workshop.asset!.document.parts);
const total = (which: "source" | "game") =>
  spaced(
    parts.value.reduce((sum, part) => sum + (part[which]?.triangles ?? 0), 0),
  );
const lightened = computed(() => parts.value.some((part) => part.light));
const left = computed(() => props.comparing || props.effective === "source");
/** Whether it is the baked look that lies beside the source. */
const isBaked = computed(
  () =>
    props.effective === "compare" &&
    besideOf(
      view.stage,
      workshop.asset!.document.maps.some(({ kind }) => kind === "normal"),
    ) !== "mesh",
);
const right = computed(() => props.comparing || props.effective !== "source");
</script>

<template>
  <div class="tags">
    <span v-if="effective === 'revisions'" class="tag">{{
      view.other?.title
    }}</span>
    <span v-else-if="trying" class="tag">detail as geometry</span>
    <span v-else-if="left" class="tag"
      >source · <b class="mono">{{ total("source") }}</b><template
        v-if="lightened"
      >
        · drawn lighter</template
      ></span
    >
    <span v-if="effective === 'revisions'" class="tag right">{{
      view.against?.title ?? "now"
    }}</span>
    <span v-else-if="trying" class="tag right">detail as map</span>
    <span v-else-if="right" class="tag right"
      >{{ effective === "baked" || isBaked ? "baked" : "game" }} ·
      <b class="mono">{{ total("game") }}</b></span
    >
  </div>
</template>
