<script setup lang="ts">
import { computed } from 'vue';
import { endOf } from '../../core/evidence/event.ts';
import type { ElementState } from '../../core/evidence/event.ts';
import { nameAt, presenceOf, segmentAt } from '../../core/evidence/lifelines.ts';
import { locatorKey } from '../../core/evidence/locator.ts';
import { useBench } from '../stores/bench.ts';
import { seconds } from '../words.ts';

/** The element when it was found and when it was used: what is the same and what is not. */
const bench = useBench();
const step = computed(() => {
  const now = bench.now.step;
  if (now?.data.locator && now.data.foundBy && now.kind === 'command') return now;
  const failing = bench.attempt?.failure?.step;
  const event = failing ? bench.byId.get(failing) : undefined;
  return event?.lane === 'step' && event.data.locator ? event : undefined;
});
const line = computed(() => {
  const locator = step.value?.data.locator;
  return locator && bench.poles.lifelines.find((one) => one.locator === locatorKey(locator));
});
const found = computed(() => {
  const id = step.value?.data.foundBy;
  const event = id ? bench.byId.get(id) : undefined;
  return event?.lane === 'step' ? event : undefined;
});
const name = computed(() =>
  line.value && step.value ? (nameAt(line.value, step.value.at) ?? line.value.locator) : '',
);
const thenAt = computed(() => (found.value ? endOf(found.value) : undefined));
const then = computed(() => {
  if (!line.value || thenAt.value === undefined) return undefined;
  return (segmentAt(line.value, thenAt.value) ?? line.value.segments[0])?.state;
});
const now = computed(() => (line.value && step.value ? segmentAt(line.value, endOf(step.value))?.state : undefined));
const goneAt = computed(() => {
  const first = then.value?.node;
  if (first === undefined || first === null || now.value?.node === first) return undefined;
  return line.value?.segments.find(
    (s) =>
      s.from >= (thenAt.value ?? 0) - 50 && s.state.node !== first && (s.kind === 'replaced' || s.kind === 'removed'),
  )?.from;
});
const different = computed(() => {
  const a = then.value?.attrs ?? {};
  const b = now.value?.attrs ?? {};
  return [...new Set([...Object.keys(a), ...Object.keys(b)])].filter((key) => a[key] !== b[key]);
});
const sides = computed(() => {
  if (!then.value || !now.value || !step.value) return [];
  const verb =
    step.value.data.action === 'press' ? 'pressed' : step.value.data.action === 'type' ? 'typed into' : 'used';
  return [
    {
      title: `found at ${seconds(thenAt.value!)}`,
      state: then.value,
      other: false,
      say: `node ${then.value.node ?? '–'} · in the page`,
    },
    {
      title: `${verb} at ${seconds(step.value.at)}`,
      state: now.value,
      other: goneAt.value !== undefined,
      say:
        goneAt.value === undefined
          ? `node ${now.value.node ?? '–'} · the same`
          : `node ${then.value.node} · gone since ${seconds(goneAt.value)}`,
    },
  ];
});
const looks = (state: ElementState): string => {
  const word = presenceOf(state);
  if (word === 'covered') return `covered by ${state.coveredBy}`;
  return word === 'visible'
    ? `visible, ${state.enabled === false ? 'disabled' : 'enabled'}, ${state.inView === false ? 'out of view' : 'uncovered'}`
    : word;
};
</script>

<template>
  <section v-if="sides.length" aria-label="Element then and now">
    <h2>{{ name }}, when found and when {{ step?.data.action === 'press' ? 'pressed' : 'used' }}</h2>
    <div class="sides">
      <div v-for="side in sides" :key="side.title" class="side" :class="{ other: side.other }">
        <p class="soft">{{ side.title }}</p>
        <p :class="{ gone: side.other }">{{ side.say }}</p>
        <p v-if="side.other && side.state.node !== null">now node {{ side.state.node }}</p>
        <p v-for="key in different" :key="key" class="mono one-line" :title="side.state.attrs?.[key]">
          {{ key }}={{ side.state.attrs?.[key] === undefined ? 'none' : `"${side.state.attrs[key]}"` }}
        </p>
        <p v-if="!different.length" class="soft">same attributes</p>
        <p>{{ looks(side.state) }}</p>
      </div>
    </div>
  </section>
</template>

<style scoped>
.sides {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 8px;
  margin-top: 5px;
}
.side {
  background: var(--sea-pale);
  padding: 6px 10px;
  min-width: 0;
  font-size: 12.5px;
}
.side.other {
  background: var(--violet-pale);
}
.gone {
  color: var(--brick-text);
  font-weight: 600;
}
</style>
