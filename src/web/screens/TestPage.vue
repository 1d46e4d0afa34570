<script setup lang="ts">
import { computed, watch } from 'vue';
import { useRoute } from 'vue-router';
import { api } from '../api.ts';
import { historyQuery, useHistoryAsked } from '../history-query.ts';
import { useLoaded } from '../loaded.ts';
import HistoryFilter from '../parts/HistoryFilter.vue';
import HistoryOf from '../parts/HistoryOf.vue';
import RiskRows from '../parts/RiskRows.vue';
import Strip from '../parts/Strip.vue';
import Trouble from '../parts/Trouble.vue';
import type { Outlook, TestHistoryView } from '../types.ts';
import { percent, plural } from '../words.ts';

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
const title = computed(() => {
  const one = history.value;
  if (!one?.runs) return 'No run of it in this time';
  if (!one.failed && !one.flaky) return `Passed in all of ${plural(one.runs, 'run')}`;
  return `Failed in ${one.failed} of ${plural(one.runs, 'run')}, passed only on retry in ${one.flaky}`;
});
</script>

<template>
  <Trouble v-if="error" :error="error" @again="load" />
  <div v-else-if="history" class="test">
    <Strip :title="title" :edge="history.failed ? 'brick' : history.flaky ? 'amber' : 'sea'">
      <template #crumbs>
        <RouterLink to="/trends">Trends</RouterLink> /
        <template v-if="history.test.suite">
          <RouterLink :to="{ path: '/trends', query: { suite: history.test.suite } }">{{
            history.test.suite
          }}</RouterLink>
          ·
        </template>
        {{ history.test.title }}
      </template>
      <template #under>{{ history.test.file ?? '' }}</template>
      <HistoryFilter v-model="asked" :branches="history.branches" :environments="history.environments" />
    </Strip>
    <div class="body">
      <HistoryOf
        v-model="asked"
        :history="history"
        :label="`How often “${history.test.title}” failed`"
        :csv="`/api/tests/${id}/history?${historyQuery(asked)}&as=csv`"
        does="first attempts fail in"
      >
        <section class="panel" aria-label="Quarantine">
          <h2>Quarantine</h2>
          <p>{{ history.quarantine.words }}.</p>
          <p class="soft">Retries of it took {{ (history.retryMs / 60_000).toFixed(1) }} min of machine time.</p>
        </section>
      </HistoryOf>
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
  grid-template-columns: minmax(0, 1fr);
  gap: 12px;
}
</style>
