<script setup lang="ts">
import { computed } from 'vue';
import { doseWords } from '../../core/trials/findings.ts';
import { doseOf, keyAtAnyDose, kindsOfStressor } from '../../core/trials/stressor.ts';
import { wilson } from '../../core/stats/wilson.ts';
import type { Finding, SearchArm } from '../types.ts';

/** How often the failure comes at each dose that was tried, with intervals, and between which doses it begins. */
const props = defineProps<{ finding: Finding; arms: SearchArm[] }>();
const box = { left: 44, right: 446, top: 10, bottom: 96 };
/** Where two words below the line would touch. */
const roomForWords = 78;

const points = computed(() => {
  const [only] = props.finding.stressors;
  if (!only) return [];
  const asItIs = props.arms.find(({ stressors }) => stressors.length === 0);
  const none = kindsOfStressor[only.kind].dose?.none ?? 0;
  return [
    ...(asItIs ? [{ dose: none, ...asItIs }] : []),
    ...props.arms.flatMap((arm) => {
      const [one] = arm.stressors;
      if (!one || keyAtAnyDose(arm.stressors) !== keyAtAnyDose([only])) return [];
      return [{ dose: doseOf(one) ?? 0, ...arm }];
    }),
  ]
    .filter(({ n }) => n > 0)
    .map(({ dose, n, same }) => ({ dose, n, same, ...wilson(same, n) }))
    .sort((a, b) => a.dose - b.dose);
});
const most = computed(() => Math.max(...points.value.map(({ dose }) => dose), 1));
/** Small doses lie close together: roots draw them apart. */
const x = (dose: number): number => box.left + Math.sqrt(Math.max(0, dose) / most.value) * (box.right - box.left);
const y = (share: number): number => box.bottom - share * (box.bottom - box.top);
const line = computed(() =>
  points.value.map(({ dose, point }, i) => `${i ? 'L' : 'M'}${x(dose).toFixed(1)} ${y(point).toFixed(1)}`).join(' '),
);
const unit = computed(() => props.finding.dose?.unit ?? 'ms');
const spoken = computed(() =>
  points.value.map(({ dose, same, n }) => `${same} of ${n} at ${doseWords(dose, unit.value)}`).join(', '),
);
</script>

<template>
  <svg v-if="points.length > 1" viewBox="0 0 460 124" role="img" :aria-label="`It failed ${spoken}`" class="curve">
    <rect
      v-if="finding.dose"
      :x="Math.min(x(finding.dose.low), x(finding.dose.high))"
      :y="box.top"
      :width="Math.max(2, Math.abs(x(finding.dose.high) - x(finding.dose.low)))"
      :height="box.bottom - box.top"
      fill="var(--amber-pale)"
    />
    <g v-for="tick in [0, 0.5, 1]" :key="tick">
      <path :d="`M${box.left} ${y(tick)} H${box.right}`" stroke="var(--line)" />
      <text :x="box.left - 5" :y="y(tick) + 4" text-anchor="end">{{ tick * 100 }} %</text>
    </g>
    <path :d="line" fill="none" stroke="var(--steel)" stroke-width="1.5" />
    <g v-for="one in points" :key="one.dose">
      <title>{{ one.same }} of {{ one.n }} at {{ doseWords(one.dose, unit) }}</title>
      <path :d="`M${x(one.dose)} ${y(one.low)} V${y(one.high)}`" stroke="var(--steel-deep)" stroke-width="2" />
      <circle :cx="x(one.dose)" :cy="y(one.point)" r="4.5" :fill="one.same ? 'var(--brick)' : 'var(--sea)'" />
    </g>
    <text v-if="!finding.dose || x(finding.dose.value) - box.left > roomForWords" :x="x(0)" :y="box.bottom + 18">
      as it is
    </text>
    <text v-if="finding.dose" :x="x(finding.dose.value)" :y="box.bottom + 18" text-anchor="middle" class="edge">
      {{ doseWords(finding.dose.value, unit) }}
    </text>
    <text :x="box.right" :y="box.bottom + 18" text-anchor="end">{{ doseWords(most, unit) }}</text>
  </svg>
</template>

<style scoped>
.curve {
  width: 100%;
  max-width: 460px;
  display: block;
}
text {
  font-size: 11px;
  fill: var(--soft);
}
.edge {
  fill: var(--ink);
  font-weight: 600;
}
</style>
