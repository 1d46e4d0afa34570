<script setup lang="ts">
import { nextTick, ref, watch } from 'vue';
import type { ContrastView, DifferenceView } from '../../core/contrast/view.ts';
import { plural } from '../words.ts';
import DotField from './DotField.vue';

/** What tells the attempts apart, the surest first: each a sentence with two dot fields, so that “3 of 3, 0 of 26” is seen. */
const props = defineProps<{ view: ContrastView; chosen: number }>();
const emit = defineEmits<{ choose: [index: number]; open: [index: number] }>();
const list = ref<HTMLElement>();
watch(
  () => props.chosen,
  () => void nextTick(() => list.value?.querySelector('.on')?.scrollIntoView({ block: 'nearest' })),
);
const when = (one: DifferenceView): string => (one.slot < 0 ? 'whole attempt' : `step ${one.slot + 1}`);
/** How sure one can be, in words before numbers. */
function sure(one: DifferenceView): string {
  if (one.q > 0.2) return props.view.weak && one.effect === 1 ? 'complete, but few' : 'may be chance';
  const odds = 1 / Math.max(one.q, 1e-9);
  return odds > 10_000 ? 'chance under 1 in 10,000' : `chance 1 in ${Math.round(odds).toLocaleString('en')}`;
}
const counts = ([hits, of]: [number, number]): string => `${hits} of ${of}`;
</script>

<template>
  <section class="differences" aria-label="What tells them apart">
    <header class="row head soft">
      <h2>What tells them apart</h2>
      <span class="brick-head">failing</span>
      <span class="sea-head">passing</span>
      <span>how sure</span>
      <span>when</span>
    </header>
    <ol ref="list">
      <li v-for="(one, i) in view.differences" :key="i">
        <button
          class="row"
          :class="{ on: i === chosen, strong: one.strong }"
          :aria-pressed="i === chosen"
          @click="emit('choose', i)"
          @dblclick="emit('open', i)"
        >
          <span class="words one-line" :title="one.summary">{{ one.summary }}</span>
          <span class="field"
            ><DotField
              :values="one.dots.failing"
              :all="[...one.dots.failing, ...one.dots.passing]"
              tone="brick"
            /><small>{{ counts(one.failing) }}</small></span
          >
          <span class="field"
            ><DotField
              :values="one.dots.passing"
              :all="[...one.dots.failing, ...one.dots.passing]"
              tone="sea"
            /><small>{{ counts(one.passing) }}</small></span
          >
          <span>{{ sure(one) }}</span>
          <span>{{ when(one) }}</span>
        </button>
      </li>
    </ol>
    <p v-if="view.found > view.differences.length" class="soft more">
      and {{ plural(view.found - view.differences.length, 'weaker difference') }}
    </p>
    <p v-if="!view.differences.length" class="soft more">
      Nothing tells them apart in what was recorded. Either it is chance, or what differs was not seen.
    </p>
  </section>
</template>

<style scoped>
.differences {
  display: grid;
  grid-template-rows: auto minmax(0, 1fr) auto;
  min-height: 0;
  background: var(--paper);
  border-top: 1px solid var(--line);
}
.row {
  display: grid;
  grid-template-columns: minmax(0, 1fr) 250px 250px 130px 92px;
  gap: 12px;
  align-items: center;
  width: 100%;
  padding: 5px 18px 5px 14px;
  border: 0;
  border-left: 4px solid transparent;
  border-bottom: 1px solid var(--line);
  background: none;
  color: inherit;
  font: inherit;
  text-align: left;
}
.head {
  padding-block: 6px;
}
h2 {
  font-size: 12px;
  font-weight: 600;
  margin: 0;
}
.brick-head {
  color: var(--brick-text);
}
.sea-head {
  color: var(--sea);
}
ol {
  list-style: none;
  margin: 0;
  padding: 0;
  overflow: auto;
}
button.row {
  cursor: pointer;
}
button.row.on {
  border-left-color: var(--brick);
  background: var(--ground);
}
button.row.strong .words {
  font-weight: 600;
}
button.row:focus-visible {
  outline-offset: -2px;
}
.field {
  display: flex;
  gap: 6px;
  align-items: center;
  font-variant-numeric: tabular-nums;
}
.field small {
  white-space: nowrap;
}
.more {
  margin: 0;
  padding: 6px 18px;
  font-size: 12px;
}
@media (max-width: 1100px) {
  .row {
    grid-template-columns: minmax(0, 1fr) 220px 220px 96px 66px;
    gap: 8px;
  }
}
</style>
