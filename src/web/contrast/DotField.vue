<script setup lang="ts">
import { computed } from 'vue';

/** One dot an attempt: full where it is so, open where it is not, a dash where nobody knows. Numbers stand on a scale. */
const props = defineProps<{
  values: readonly (boolean | number | null)[];
  /** The values of both sides, so that numbers of both stand on one scale. */
  all: readonly (boolean | number | null)[];
  tone: 'brick' | 'sea';
}>();
const across = 24;
const step = 8;
const wide = across * step;
const numbers = computed(() => props.all.filter((value): value is number => typeof value === 'number'));
const scaled = computed(() => numbers.value.length > 0);
const dots = computed(() => {
  const low = Math.min(...numbers.value);
  const high = Math.max(...numbers.value);
  // Of several hundred, as many rows as it takes; of numbers, one line with those at one place above each other.
  const piles = new Map<number, number>();
  return props.values.map((value, i) => {
    if (typeof value !== 'number')
      return {
        x: (i % across) * step + 4,
        y: Math.floor(i / across) * step + 5,
        so: value === true,
        known: value !== null,
      };
    const place = Math.round(((value - low) / (high - low || 1)) * (across - 1));
    const pile = piles.get(place) ?? 0;
    piles.set(place, pile + 1);
    return { x: place * step + 4, y: Math.min(pile, 4) * 4 + 5, so: true, known: true };
  });
});
const height = computed(() => Math.max(11, ...dots.value.map(({ y }) => y + 6)));
</script>

<template>
  <svg class="field" :class="[tone, { scaled }]" :width="wide" :height="height" aria-hidden="true">
    <template v-for="(dot, i) in dots" :key="i">
      <circle v-if="dot.known" :cx="dot.x" :cy="dot.y" r="3" :class="{ so: dot.so }" />
      <path v-else :d="`M ${dot.x - 2.5} ${dot.y} h 5`" />
    </template>
  </svg>
</template>

<style scoped>
.field {
  display: block;
}
circle {
  fill: none;
  stroke-width: 1.2;
}
.brick circle {
  stroke: var(--brick);
}
.brick circle.so {
  fill: var(--brick);
}
.sea circle {
  stroke: var(--sea);
}
.sea circle.so {
  fill: var(--sea);
}
.scaled circle.so {
  fill-opacity: 0.45;
}
path {
  stroke: var(--steel);
  stroke-width: 1.2;
}
</style>
