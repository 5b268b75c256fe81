<script setup lang="ts">
import Button from "primevue/button";
import Select from "primevue/select";
import { call } from "../../stores/api";
import type { AssetState, AssetSummary } from "../../shared/types";
import { useWorkshop } from "../../stores/workshop";

/** A part of another asset, brought over with all that was made for it. */
const workshop = useWorkshop();
const open = ref(false);
const assets = ref<AssetSummary[]>([]);
const parts = ref<{ name: string; label: string }[]>([]);
const asset = ref<number | null>(null);
const part = ref<string | null>(null);
async function unfold() {
  open.value = !open.value;
  if (!open.value) return;
  const all = await call<AssetSummary[]>("GET", "assets").catch(() => []);
  assets.value = all.filter(({ id }) => id !== workshop.asset!.id);
}
watch(asset, async (id) => {
  part.value = null;
  parts.value = [];
  if (id === null) return;
  const { document } = await call<AssetState>("GET", `assets/${id}`);
  parts.value = document.parts.map(({ name, game }) => ({
    name,
    label: game?.streams.uvs
      ? `${name} · with UVs`
      : game
        ? `${name} · with game mesh`
        : name,
  }));
});
const bring = () =>
  workshop.run("intake/bring-over", { asset: asset.value, part: part.value });
</script>

<template>
  <section>
    <button class="link-action" :aria-expanded="open" @click="unfold">
      <i class="pi" :class="open ? 'pi-angle-down' : 'pi-angle-right'" />
      Bring a part over from another asset
    </button>
    <div v-if="open" class="form">
      <Select
        v-model="asset"
        :options="assets"
        option-label="name"
        option-value="id"
        placeholder="asset"
        empty-message="there is no other asset"
        aria-label="Asset to bring a part over from"
      />
      <Select
        v-model="part"
        :options="parts"
        option-label="label"
        option-value="name"
        placeholder="part"
        :disabled="!parts.length"
        aria-label="Part to bring over"
      />
      <Button
        label="Bring it over"
        severity="secondary"
        outlined
        :disabled="workshop.locked || !part"
        @click="bring"
      />
    </div>
  </section>
</template>

<style scoped>
.form {
  display: grid;
  gap: 8px;
  margin-top: 8px;
}
.pi {
  font-size: 11px;
}
</style>
