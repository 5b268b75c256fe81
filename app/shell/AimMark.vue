<script setup lang="ts">
/** Where the keyboard aims: a cross, heavier while Space holds. Dark and light lines, to be seen on anything. */
defineProps<{ aim: { x: number; y: number; held: boolean } }>();
</script>

<template>
  <svg
    class="aim"
    data-test="aim"
    :style="{ left: `${aim.x}px`, top: `${aim.y}px` }"
    viewBox="-16 -16 32 32"
    aria-hidden="true"
  >
    <g :stroke-width="aim.held ? 5 : 4" class="below">
      <path d="M-14 0H-4M4 0H14M0 -14V-4M0 4V14" />
      <circle r="9" />
    </g>
    <g :stroke-width="aim.held ? 3 : 1.6" class="above">
      <path d="M-14 0H-4M4 0H14M0 -14V-4M0 4V14" />
      <circle r="9" />
    </g>
  </svg>
</template>

<style scoped>
.aim {
  position: absolute;
  width: 32px;
  height: 32px;
  margin: -16px 0 0 -16px;
  fill: none;
  pointer-events: none;
}
.below {
  stroke: #fff;
}
.above {
  stroke: #c2185b;
}
</style>
