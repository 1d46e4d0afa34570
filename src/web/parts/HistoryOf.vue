<script setup lang="ts">
import { computed, nextTick, ref } from 'vue';
import type { TestHistory } from '../../core/history/test-history.ts';
import { wilson } from '../../core/stats/wilson.ts';
import { useKeys } from '../keys.ts';
import type { HistoryAsked } from '../types.ts';
import { moment, percent } from '../words.ts';
import OutcomeGlyph from './OutcomeGlyph.vue';
import RateChart from './RateChart.vue';

/** What runs say over time: each of them, the rate by day or commit, when it became another. What belongs beside that goes into the slot. */
const props = defineProps<{
  history: TestHistory;
  /** What the chart shows, in words. */
  label: string;
  csv: string;
  /** What happens at a rate: “first attempts fail in”. */
  does: string;
}>();
const asked = defineModel<HistoryAsked>({ required: true });

const most = 400;
const strip = computed(() => props.history.strip.slice(-most));
/** What changes are watched in. */
const rate = computed(() => wilson(props.history.failed + props.history.flaky, props.history.runs));
const chosen = ref(-1);
async function choose(i: number): Promise<void> {
  chosen.value = Math.max(0, Math.min(strip.value.length - 1, i));
  await nextTick();
  document.querySelector<HTMLElement>('.strip-runs a.chosen')?.focus();
}
useKeys(
  [
    { keys: '← →', does: 'run' },
    { keys: 'Enter', does: 'bench' },
    { keys: 'F', does: 'failure before' },
    { keys: 'B', does: 'by day or by commit' },
  ],
  (event) => {
    const at = chosen.value < 0 ? strip.value.length : chosen.value;
    if (event.key === 'ArrowLeft') void choose(at - 1);
    else if (event.key === 'ArrowRight') void choose(at + 1);
    else if (event.key.toLowerCase() === 'f')
      void choose(
        Math.max(
          0,
          strip.value.findLastIndex((one, i) => i < at && (one.failed || one.flaky)),
        ),
      );
    else if (event.key.toLowerCase() === 'b') asked.value.per = asked.value.per === 'day' ? 'commit' : 'day';
    else return false;
    return true;
  },
);
type Run = TestHistory['strip'][number];
const glyph = (one: Run): string => (one.failed ? 'failed' : one.flaky ? 'flaky' : 'passed');
/** The attempt to look at: the first that failed, else the last. */
const toOpen = ({ attempts }: Run): string =>
  (attempts.find(({ outcome }) => outcome === 'failed' || outcome === 'errored') ?? attempts.at(-1)!).id;
</script>

<template>
  <section class="panel" aria-label="Every run">
    <h2>
      Every run<template v-if="history.strip.length > most"
        >, the last {{ most }} of {{ history.strip.length }}</template
      >
    </h2>
    <div class="strip-runs">
      <RouterLink
        v-for="(one, i) in strip"
        :key="one.attempts[0]!.id"
        :to="`/attempts/${toOpen(one)}`"
        :class="{ chosen: i === chosen }"
        :aria-label="`${one.runName}, ${one.environment}, ${glyph(one)}`"
        :title="`${one.runName}, ${moment(one.at)}, ${one.environment}: ${glyph(one)}`"
        ><OutcomeGlyph :outcome="glyph(one)" silent
      /></RouterLink>
    </div>
  </section>
  <section class="panel" aria-label="Rates">
    <RateChart :points="history.points" :marks="history.changes" :label="label" :csv="csv" />
  </section>
  <div class="pair">
    <section class="panel" aria-label="When it changed">
      <h2>When it changed</h2>
      <p v-if="!history.changes.length" class="soft">
        Nothing says that its rate changed in this time: {{ does }} {{ percent(rate.low) }} to
        {{ percent(rate.high) }} of runs.
      </p>
      <p v-for="change in [...history.changes].reverse()" :key="change.at">
        <b :class="change.after.point > change.before.point ? 'brick' : 'sea'">{{ moment(change.at) }}</b>
        {{ change.words }}.
        <span class="soft"
          >First in <RouterLink :to="`/runs/${change.run.id}`">{{ change.run.name }}</RouterLink>, last before it
          <RouterLink :to="`/runs/${change.last.id}`">{{ change.last.name }}</RouterLink>; told after
          {{ change.toldIn.name }}.</span
        >
      </p>
    </section>
    <slot />
  </div>
</template>

<style scoped>
p a {
  text-decoration: underline;
}
.strip-runs {
  display: flex;
  flex-wrap: wrap;
  gap: 1px;
}
.strip-runs a {
  padding: 2px;
  line-height: 1;
}
.strip-runs a.chosen {
  background: var(--timber-pale);
}
.pair > .panel,
.pair > :slotted(.panel) {
  align-content: start;
}
.pair {
  display: grid;
  grid-template-columns: minmax(0, 3fr) minmax(0, 2fr);
  gap: 12px;
}
b {
  font-weight: 600;
}
</style>
