<script setup lang="ts">
import Select from "primevue/select";
import type { MapDocument } from "../../../core/asset/document";
import type { MapKind } from "../../../core/base/pictures";
import { BROUGHT_KINDS, MAP_TITLES } from "../../../core/base/pictures";
import FileButton from "../../components/FileButton.vue";
import { useView } from "../../stores/view";
import { useWorkshop } from "../../stores/workshop";

/** Maps from elsewhere: brought in from files, chosen against the baked ones, taken away. */
const view = useView();
const workshop = useWorkshop();
const kind = ref("name");
const KINDS = [
  { value: "name", label: "by its name" },
  ...BROUGHT_KINDS.map((each) => ({ value: each, label: MAP_TITLES[each] })),
];
const USES = [
  { value: "brought", label: "brought in" },
  { value: "baked", label: "baked" },
];
interface Brought {
  kind: MapKind;
  title: string;
  files: string;
  use: "brought" | "baked";
  hasBaked: boolean;
}
const brought = computed<Brought[]>(() => {
  const { maps, aside } = workshop.asset!.document;
  const all = [...maps, ...(aside ?? [])];
  const isIn = (map: MapDocument) => map.from !== undefined;
  return BROUGHT_KINDS.flatMap((each) => {
    const own = all.filter((map) => map.kind === each);
    const files = own.filter(isIn);
    return files.length
      ? [
          {
            kind: each,
            title: MAP_TITLES[each],
            files: files
              .map(({ from, width, height }) => `${from}, ${width} × ${height}`)
              .join("; "),
            use: maps.some((map) => map.kind === each && isIn(map))
              ? ("brought" as const)
              : ("baked" as const),
            hasBaked: own.some((map) => !isIn(map)),
          },
        ]
      : [];
  });
});
const canBring = computed(() =>
  workshop.asset!.document.parts.some(({ game }) => game?.streams.uvs),
);
// What was just brought in or chosen is looked at.
watch(
  () => brought.value.map(({ kind: each, use }) => `${each} ${use}`),
  (now, before) => {
    const other = now.find((each) => !before.includes(each));
    if (!other) return;
    view.sheet = true;
    view.sheetShows = other.split(" ")[0] as MapKind;
  },
);
const bring = (files: File[]) =>
  workshop.send("bake/bring-map", files, { kind: kind.value });
const use = (each: MapKind, which: string) =>
  workshop.run("bake/use-map", { kind: each, use: which });
</script>

<template>
  <section v-if="canBring">
    <h2>Maps from elsewhere</h2>
    <div class="bring">
      <Select
        v-model="kind"
        :options="KINDS"
        option-label="label"
        option-value="value"
        aria-label="kind of map that is brought in"
      />
      <FileButton
        label="Bring in…"
        field="Map files"
        accept=".png,.jpg,.jpeg"
        multiple
        :disabled="workshop.locked"
        @files="bring"
      />
    </div>
    <ul v-if="brought.length">
      <li v-for="each in brought" :key="each.kind">
        <span class="name">
          {{ each.title }}
          <span class="muted">{{ each.files }}</span>
        </span>
        <Select
          v-if="each.hasBaked || each.use === 'baked'"
          :model-value="each.use"
          :options="USES"
          option-label="label"
          option-value="value"
          :aria-label="`which ${each.title} is in use`"
          :disabled="workshop.locked"
          @update:model-value="use(each.kind, $event)"
        />
        <button
          class="link-action"
          :aria-label="`take ${each.title} from elsewhere away`"
          :disabled="workshop.locked"
          @click="use(each.kind, 'remove')"
        >
          Remove
        </button>
      </li>
    </ul>
  </section>
</template>

<style scoped>
.bring {
  display: flex;
  flex-wrap: wrap;
  gap: 8px;
}
ul {
  margin: 8px 0 0;
  padding: 0;
  list-style: none;
}
li {
  display: flex;
  gap: 8px;
  align-items: center;
  padding: 4px 0;
}
.name {
  display: grid;
  flex: 1;
  min-width: 0;
  overflow-wrap: anywhere;
}
</style>
