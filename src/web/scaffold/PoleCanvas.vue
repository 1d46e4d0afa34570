<script setup lang="ts">
import { useMediaQuery } from '@vueuse/core';
import { onMounted, ref, watchPostEffect } from 'vue';
import { useRoom } from './room.ts';
import { cleared, paint, tokens, type Shape } from './shapes.ts';

/** The shapes of a pole, drawn: far cheaper than an element each when hundreds are in sight. */
const props = defineProps<{ shapes: readonly Shape[]; left: number; width: number }>();
const { sight, inSight } = useRoom();
const canvas = ref<HTMLCanvasElement>();
const dark = useMediaQuery('(prefers-color-scheme: dark)');
const ready = ref(false);
onMounted(() => (ready.value = true));

watchPostEffect(() => {
  const el = canvas.value;
  // The colours are asked anew when light turns to dark.
  if (!ready.value || !el || dark.value === undefined) return;
  const { from, height } = sight.value;
  const draw = cleared(el, props.width, height);
  draw.translate(-props.left, -from);
  const colours = tokens(dark.value);
  for (const shape of inSight(props.shapes)) paint(draw, shape, colours, from, from + height);
});
</script>

<template>
  <canvas
    ref="canvas"
    class="shapes"
    aria-hidden="true"
    :style="{ left: `${left}px`, top: `${sight.from}px`, width: `${width}px`, height: `${sight.height}px` }"
  />
</template>

<style scoped>
.shapes {
  position: absolute;
  pointer-events: none;
}
</style>
