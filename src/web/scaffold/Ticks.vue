<script setup lang="ts">
import { computed } from 'vue';
import { useBench } from '../stores/bench.ts';
import { gutter } from './columns.ts';
import { px, useRoom } from './room.ts';

/** The times beside the steps: of steps and requests where there is room, in a folded or spread time as in true time. */
const bench = useBench();
const { scale, words } = useRoom();
const marks = computed(() =>
  [...bench.poles.planks, ...bench.poles.network].map((event) => event.at).sort((a, b) => a - b),
);
const ticks = computed(() => {
  const list: { at: number; top: number }[] = [];
  let free = -Infinity;
  for (const at of marks.value) {
    const top = scale.value.y(at);
    if (top < free) continue;
    free = top + 30;
    list.push({ at, top });
  }
  return list;
});
</script>

<template>
  <div>
    <span
      v-for="tick in words(ticks)"
      :key="tick.at"
      class="tick mono label"
      :style="{ top: px(tick.top), left: px(gutter.mini + gutter.pennant - 1), width: px(gutter.time - 7) }"
      >{{ (tick.at / 1000).toFixed(tick.at < 100_000 ? 2 : 1) }} s</span
    >
  </div>
</template>

<style scoped>
.tick {
  position: absolute;
  text-align: right;
  color: var(--soft);
  transform: translateY(-7px);
  font-size: 10.5px;
  line-height: 14px;
  white-space: nowrap;
  letter-spacing: -0.2px;
  background: var(--ground);
  z-index: 1;
}
</style>
