<script setup lang="ts">
import { useMediaQuery } from '@vueuse/core';
import { onMounted, ref, watchPostEffect } from 'vue';
import { densityOf, type StopLane } from '../../core/scaffold/crowd.ts';
import { useBench } from '../stores/bench.ts';
import type { Column } from './columns.ts';
import { useRoom } from './room.ts';
import { cleared, tokens, type Tone } from './shapes.ts';

/** Where too much lies to be drawn one by one: how much lies where, as bars on each pole. */
const props = defineProps<{ columns: readonly Column[]; from: number; height: number; width: number }>();
const bench = useBench();
const { scale, crowded } = useRoom();
const canvas = ref<HTMLCanvasElement>();
const ready = ref(false);
onMounted(() => (ready.value = true));
const dark = useMediaQuery('(prefers-color-scheme: dark)');
const colours: Partial<Record<StopLane, Tone>> = {
  step: 'timber',
  poll: 'sea',
  element: 'sea',
  exception: 'brick',
  network: 'timber',
};
watchPostEffect(() => {
  const el = canvas.value;
  if (!ready.value || !el) return;
  const draw = cleared(el, props.width, props.height);
  const tones = tokens(dark.value);
  for (const { key, left, width } of props.columns) {
    const lane: StopLane = key === 'wait' ? 'poll' : key;
    const times = bench.stops[lane];
    if (!times?.length || !crowded(lane)) continue;
    const rows = densityOf(times, scale.value, props.from, props.from + props.height);
    const most = rows.reduce((max, { count }) => Math.max(max, count), 1);
    draw.fillStyle = tones[colours[lane] ?? 'steel-deep'];
    draw.globalAlpha = 0.75;
    for (const { top, height, count } of rows) {
      const long = 3 + (Math.log1p(count) / Math.log1p(most)) * (width - 18);
      draw.fillRect(left + 3, top - props.from, long, height - 1);
    }
  }
});
</script>

<template>
  <canvas ref="canvas" aria-hidden="true" :style="{ width: `${width}px`, height: `${height}px`, top: `${from}px` }" />
</template>

<style scoped>
canvas {
  position: absolute;
  left: 0;
  pointer-events: none;
}
</style>
