<script setup lang="ts">
import { ownHulls } from "../../core/mesh/hull";
import Button from "primevue/button";
import { STAGE_TITLES } from "../../core/asset/stages";
import { counted, percent, spaced } from "../shared/figures";
import ShortName from "../components/ShortName.vue";
import { useView } from "../stores/view";
import { useWorkshop } from "../stores/workshop";

const workshop = useWorkshop();
const view = useView();
const document = computed(() => workshop.asset!.document);
const used = computed(() =>
  document.value.parts.reduce(
    (sum, part) => sum + (part.game?.triangles ?? 0),
    0,
  ),
);
const budget = computed(() => document.value.brief.triangles);
const span = computed(() => Math.max(budget.value * 1.04, used.value));
const report = computed(() => document.value.results.unwrap?.report ?? {});
const hulls = computed(() =>
  document.value.parts.reduce(
    (sum, part) => sum + ownHulls(part.hulls).length,
    0,
  ),
);
const over = computed(() => used.value > budget.value);
</script>

<template>
  <header class="gauge" data-region tabindex="-1" aria-label="Gauge">
    <NuxtLink to="/" class="mark" aria-label="Arnik: all assets"
      >Arn<span>i</span>k</NuxtLink
    >
    <div class="name">
      <h1><ShortName :name="document.name" /></h1>
      <span class="muted">revision {{ workshop.asset!.number }}</span>
    </div>
    <div
      class="budget"
      role="group"
      :aria-label="`${used} of ${budget} triangles`"
    >
      <div class="words">
        <span
          >Triangles <b class="mono">{{ spaced(used) }}</b> of
          <span class="mono">{{ spaced(budget) }}</span></span
        >
        <span v-if="used" class="mono" :class="over ? 'bad' : 'muted'">{{
          over
            ? `${spaced(used - budget)} over`
            : `${spaced(budget - used)} left`
        }}</span>
      </div>
      <div class="bar">
        <template v-for="part in document.parts" :key="part.name">
          <button
            v-if="part.game"
            class="segment"
            :class="{ chosen: view.selected.includes(part.name) }"
            :style="{
              width: `${(100 * part.game.triangles) / span}%`,
              background: part.colour,
            }"
            :title="`${part.name}: ${spaced(part.game.triangles)} triangles`"
            :aria-label="`${part.name}: ${part.game.triangles} triangles`"
            tabindex="-1"
            @click="
              view.toggleSelected(part.name, $event.shiftKey || $event.ctrlKey)
            "
          />
        </template>
        <i
          v-if="over"
          class="beyond"
          :style="{ left: `${(100 * budget) / span}%` }"
        />
        <i class="limit" :style="{ left: `${(100 * budget) / span}%` }" />
      </div>
    </div>
    <dl class="facts">
      <div>
        <dt>Sheet fill</dt>
        <dd class="mono">
          {{
            report.fill === undefined ? "–" : percent(Number(report.fill), 0)
          }}
        </dd>
      </div>
      <div>
        <dt>Density</dt>
        <dd class="mono">
          {{
            report.density === undefined ? "–" : spaced(Number(report.density))
          }}
          <small>texels/m</small>
        </dd>
      </div>
      <div>
        <dt>Hulls</dt>
        <dd class="mono" :class="{ bad: hulls > document.brief.hulls }">
          {{ hulls }} <small>of {{ document.brief.hulls }}</small>
        </dd>
      </div>
    </dl>
    <Button
      v-if="workshop.stale.length"
      class="stale"
      :disabled="workshop.locked"
      :label="`${workshop.stale.length} stale · Bring ${counted(workshop.willRedo.length, 'stage')} up to date`"
      :title="`Redoes ${workshop.willRedo.map((stage) => STAGE_TITLES[stage]).join(', ')}`"
      @click="workshop.step('up-to-date')"
    />
    <Button
      v-else-if="workshop.canRunRoute"
      class="run"
      :disabled="workshop.locked"
      label="Run the route"
      title="Takes the asset through all stages that have what they need, with the brief's figures"
      @click="workshop.step('route')"
    />
    <span v-else class="fresh">all current</span>
  </header>
</template>

<style scoped>
.gauge {
  display: flex;
  align-items: center;
  gap: 20px;
  padding: 0 14px;
  background: var(--paper);
  border-bottom: 1px solid var(--line);
  height: 52px;
}
.mark {
  font: 600 21px var(--slab);
  color: var(--ink);
  text-decoration: none;
  letter-spacing: 0.2px;
}
.mark span {
  color: var(--brass);
}
.name {
  width: 152px;
  line-height: 1.25;
}
.name h1 {
  font-size: 15px;
  white-space: nowrap;
  overflow: hidden;
  text-overflow: ellipsis;
}
.name span {
  font-size: 12px;
}
.budget {
  flex: 1;
  min-width: 160px;
}
.words {
  display: flex;
  justify-content: space-between;
  font-size: 12px;
  margin-bottom: 3px;
}
.bar {
  position: relative;
  display: flex;
  height: 13px;
  background: var(--well);
  border-radius: 2px;
  overflow: visible;
}
.segment {
  border: 0;
  border-right: 1px solid var(--paper);
  padding: 0;
  height: 100%;
  cursor: pointer;
}
.segment.chosen {
  box-shadow: inset 0 0 0 2px var(--raspberry);
}
.limit {
  position: absolute;
  top: -4px;
  bottom: -4px;
  width: 2px;
  background: var(--ink);
}
.beyond {
  position: absolute;
  top: 0;
  bottom: 0;
  right: 0;
  background: repeating-linear-gradient(
    135deg,
    var(--rust) 0 3px,
    transparent 3px 6px
  );
}
.facts {
  display: flex;
  gap: 20px;
  margin: 0;
}
.facts dt {
  font-size: 11.5px;
  color: var(--ink-3);
  line-height: 1.2;
}
.facts dd {
  margin: 0;
  font-size: 13.5px;
  white-space: nowrap;
}
.facts small {
  color: var(--ink-3);
  font-size: 11px;
}
.bad {
  color: var(--rust);
}
.stale {
  background: var(--brass-wash);
  border: 1px solid var(--brass);
  color: var(--brass-ink);
  white-space: nowrap;
}
.stale:not(:disabled):hover {
  background: var(--brass);
  border-color: var(--brass);
  color: #fff;
}
.run {
  white-space: nowrap;
}
.fresh {
  color: var(--kelp-ink);
  font-size: 12px;
  white-space: nowrap;
}
</style>
