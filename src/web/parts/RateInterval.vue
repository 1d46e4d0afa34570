<script setup lang="ts">
import { percent } from '../words.ts';

/** A failure rate with its interval on a line from 0 to 100 %. */
const props = defineProps<{ rate: { point: number; low: number; high: number }; done: number }>();
const at = (share: number): number => 10 + share * 380;
const words = (): string =>
  props.done
    ? `${percent(props.rate.point)}, between ${percent(props.rate.low)} and ${percent(props.rate.high)} with 95 % certainty`
    : 'no trial has ended yet';
</script>

<template>
  <div>
    <svg viewBox="0 0 400 34" role="img" :aria-label="words()" class="interval">
      <path d="M10 12 H390" stroke="var(--line)" stroke-width="2" />
      <g v-for="tick in [0, 0.25, 0.5, 0.75, 1]" :key="tick">
        <path :d="`M${at(tick)} 8 V16`" stroke="var(--steel)" />
        <text :x="at(tick)" y="30" :text-anchor="tick === 0 ? 'start' : tick === 1 ? 'end' : 'middle'">
          {{ tick * 100 }} %
        </text>
      </g>
      <template v-if="done">
        <path :d="`M${at(rate.low)} 12 H${at(rate.high)}`" stroke="var(--steel-deep)" stroke-width="5" />
        <circle :cx="at(rate.point)" cy="12" r="6" fill="var(--brick)" />
      </template>
    </svg>
    <p class="soft">{{ words() }}</p>
  </div>
</template>

<style scoped>
.interval {
  width: 100%;
  max-width: 460px;
  display: block;
}
text {
  font-size: 11px;
  fill: var(--soft);
}
</style>
