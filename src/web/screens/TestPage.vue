<script setup lang="ts">
import { computed, nextTick, ref, watch } from 'vue';
import { useRoute } from 'vue-router';
import { api } from '../api.ts';
import { historyQuery, useHistoryAsked } from '../history-query.ts';
import { useKeys } from '../keys.ts';
import { useLoaded } from '../loaded.ts';
import HistoryFilter from '../parts/HistoryFilter.vue';
import OutcomeGlyph from '../parts/OutcomeGlyph.vue';
import RateChart from '../parts/RateChart.vue';
import RiskRows from '../parts/RiskRows.vue';
import Strip from '../parts/Strip.vue';
import Trouble from '../parts/Trouble.vue';
import type { Outlook, TestHistoryView } from '../types.ts';
import { moment, percent, plural } from '../words.ts';

/** One test over time: every run of it, its rates, when they became others, and whether a quarantine pays. */
const route = useRoute();
const id = String(route.params.id);
const asked = useHistoryAsked();
const {
  shown: history,
  error,
  load,
} = useLoaded(
  () => api<TestHistoryView>('GET', `/tests/${id}/history?${historyQuery(asked)}`),
  ({ type }) => type === 'run' || type === 'attempt',
  // While attempts come in, what counts over weeks changes little.
  30_000,
);
watch(asked, () => void load());
const { shown: outlook } = useLoaded(
  () => api<Outlook>('GET', `/tests/${id}/outlook`),
  ({ type }) => type === 'attempt',
  10_000,
);

const most = 400;
const strip = computed(() => history.value?.strip.slice(-most) ?? []);
const title = computed(() => {
  const one = history.value;
  if (!one?.runs) return 'No run of it in this time';
  if (!one.failed && !one.flaky) return `Passed in all of ${plural(one.runs, 'run')}`;
  return `Failed in ${one.failed} of ${plural(one.runs, 'run')}, passed only on retry in ${one.flaky}`;
});
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
    else if (event.key.toLowerCase() === 'b') asked.per = asked.per === 'day' ? 'commit' : 'day';
    else return false;
    return true;
  },
);
const glyph = (one: TestHistoryView['strip'][number]): string =>
  one.failed ? 'failed' : one.flaky ? 'flaky' : 'passed';
/** The attempt to look at: the first that failed, else the last. */
const toOpen = ({ attempts }: TestHistoryView['strip'][number]): string =>
  (attempts.find(({ outcome }) => outcome === 'failed' || outcome === 'errored') ?? attempts.at(-1)!).id;
</script>

<template>
  <Trouble v-if="error" :error="error" @again="load" />
  <div v-else-if="history" class="test">
    <Strip :title="title" :edge="history.failed ? 'brick' : history.flaky ? 'amber' : 'sea'">
      <template #crumbs>
        <RouterLink to="/trends">Trends</RouterLink> / {{ history.test.suite ? `${history.test.suite} · ` : ''
        }}{{ history.test.title }}
      </template>
      <template #under>{{ history.test.file ?? '' }}</template>
      <HistoryFilter v-model="asked" :branches="history.branches" :environments="history.environments" />
    </Strip>
    <div class="body">
      <section class="panel" aria-label="Every run">
        <h2>
          Every run<template v-if="history.strip.length > most"
            >, the last {{ most }} of {{ history.strip.length }}</template
          >
        </h2>
        <div class="strip-runs">
          <RouterLink
            v-for="(one, i) in strip"
            :key="`${one.run} ${one.environment}`"
            :to="`/attempts/${toOpen(one)}`"
            :class="{ chosen: i === chosen }"
            :aria-label="`${one.runName}, ${one.environment}, ${glyph(one)}`"
            :title="`${one.runName}, ${moment(one.at)}, ${one.environment}: ${glyph(one)}`"
            ><OutcomeGlyph :outcome="glyph(one)" silent
          /></RouterLink>
        </div>
      </section>
      <section class="panel" aria-label="Rates">
        <RateChart
          :points="history.points"
          :marks="history.changes"
          :label="`How often “${history.test.title}” failed`"
          :csv="`/api/tests/${id}/history?${historyQuery(asked)}&as=csv`"
        />
      </section>
      <div class="pair">
        <section class="panel" aria-label="When it changed">
          <h2>When it changed</h2>
          <p v-if="!history.changes.length" class="soft">
            Nothing says that its rate changed in this time: {{ percent(history.failure.low) }} to
            {{ percent(history.failure.high) }} fail.
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
        <section class="panel" aria-label="Quarantine">
          <h2>Quarantine</h2>
          <p>{{ history.quarantine.words }}.</p>
          <p class="soft">Retries of it took {{ (history.retryMs / 60_000).toFixed(1) }} min of machine time.</p>
        </section>
      </div>
      <section v-if="outlook?.risks.length" class="panel" aria-label="What may make it flake">
        <h2>
          What may make it flake, by {{ plural(outlook.attempts, 'passing attempt') }}
          <span class="soft">· likely to: {{ percent(outlook.score) }}</span>
        </h2>
        <RiskRows :risks="outlook.risks" />
      </section>
    </div>
  </div>
</template>

<style scoped>
.body {
  padding: 12px 18px 18px;
  display: grid;
  gap: 12px;
}
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
.pair .panel {
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
