<script setup lang="ts">
import { computed } from 'vue';
import { useBench } from '../stores/bench.ts';
import PoleCanvas from './PoleCanvas.vue';
import { useRoom } from './room.ts';
import type { Shape } from './shapes.ts';
import TextPole from './TextPole.vue';

/** Windows: a line each while it stands open, filled while the test looks at it; dialogs and frames in words. */
const bench = useBench();
const { scale, column } = useRoom();
const gap = 9;
const most = 4;
const place = computed(() => column('window'));
const tracks = computed(() => bench.windows.lines.slice(0, most));
const inset = computed(() => 3 + Math.max(1, tracks.value.length) * gap);
const shapes = computed(() =>
  tracks.value.flatMap((line, i) => {
    const bar = (from: number, until: number, look: Shape['look'], tone: Shape['tone']): Shape => {
      const top = scale.value.y(from);
      const height = Math.max(3, scale.value.y(until) - top);
      return { left: place.value.left + 3 + i * gap, top, width: 6, height, look, tone };
    };
    return [
      bar(line.from, line.until, 'hollow', 'steel-deep'),
      ...line.looked.map((one) => bar(one.from, one.until, 'fill', 'sea')),
    ];
  }),
);
</script>

<template>
  <div>
    <PoleCanvas :shapes="shapes" :left="place.left" :width="inset" />
    <TextPole pole="window" :items="bench.windows.items" :inset="inset" />
  </div>
</template>
