<script setup lang="ts">
import { udims } from "../stages/unwrap/figures";
import { useView } from "../stores/view";
import { useWorkshop } from "../stores/workshop";

/** Which sheet is seen, at what size, and how it lies beside the table. */
defineProps<{ width: number; height: number; padding: number }>();
const view = useView();
const workshop = useWorkshop();
const tiles = computed(() => udims(workshop.asset!.document));
</script>

<template>
  <div class="tags">
    <span class="tag mono" :title="`Padding ${padding} px`"
      >{{
        tiles.length > 1
          ? `${tiles.length} tiles from ${tiles[0].tile}`
          : `sheet ${tiles[0].tile}`
      }}
      · {{ width }} × {{ height }}
      <template v-if="tiles.length === 1"
        >· padding {{ padding }} px</template
      ></span
    >
    <span class="switch-group right">
      <button
        :title="view.sheetTurned ? 'Side by side' : 'One above the other'"
        @click="view.sheetTurned = !view.sheetTurned"
      >
        turn
      </button>
      <button title="Exchange table and sheet" @click="view.swapSheet()">
        swap
      </button>
    </span>
  </div>
</template>

<style scoped>
.switch-group {
  flex-wrap: nowrap;
  padding: 0 2px;
}
.switch-group button {
  padding: 1px 6px;
  font-size: 12px;
}
</style>
