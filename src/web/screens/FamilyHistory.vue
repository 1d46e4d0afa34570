<script setup lang="ts">
import { computed, watch } from 'vue';
import { useRoute } from 'vue-router';
import { api } from '../api.ts';
import { historyQuery, useHistoryAsked } from '../history-query.ts';
import { useLoaded } from '../loaded.ts';
import HistoryFilter from '../parts/HistoryFilter.vue';
import HistoryOf from '../parts/HistoryOf.vue';
import Strip from '../parts/Strip.vue';
import Trouble from '../parts/Trouble.vue';
import type { FamilyHistoryView } from '../types.ts';
import { moment, plural } from '../words.ts';

/** One way to fail over time: how often it came in the runs of its tests, and when that became another rate. */
const route = useRoute();
const id = String(route.params.id);
const asked = useHistoryAsked();
const {
  shown: history,
  error,
  load,
} = useLoaded(
  () => api<FamilyHistoryView>('GET', `/families/${id}/history?${historyQuery(asked)}`),
  ({ type }) => type === 'run' || type === 'attempt' || type === 'family',
  30_000,
);
watch(asked, () => void load());
const title = computed(() => {
  const one = history.value;
  if (!one?.runs) return 'None of its tests ran in this time';
  if (!one.failed && !one.flaky) return `It came in none of ${plural(one.runs, 'run')} of its tests`;
  return `It came in ${one.failed + one.flaky} of ${plural(one.runs, 'run')} of its tests, ${one.flaky} of them passed on retry`;
});
</script>

<template>
  <Trouble v-if="error" :error="error" @again="load" />
  <div v-else-if="history">
    <Strip :title="title" :edge="history.failed ? 'brick' : history.flaky ? 'amber' : 'sea'">
      <template #crumbs>
        <RouterLink to="/dossiers">Dossiers</RouterLink> /
        <RouterLink :to="`/dossiers/${id}`">{{ history.sentence }}</RouterLink> / history
      </template>
      <template #under>first seen {{ moment(history.firstAt) }}</template>
      <HistoryFilter v-model="asked" :branches="history.branches" :environments="history.environments" />
    </Strip>
    <div class="body">
      <HistoryOf
        v-model="asked"
        :history="history"
        :label="`How often “${history.sentence}” came`"
        :csv="`/api/families/${id}/history?${historyQuery(asked)}&as=csv`"
        does="it comes in"
      >
        <section class="panel" aria-label="Its tests">
          <h2>Its tests</h2>
          <p v-for="test in history.tests.slice(0, 20)" :key="test.id">
            <small v-if="test.suite" class="soft suite">{{ test.suite }}</small>
            <RouterLink :to="`/tests/${test.id}`">{{ test.title }}</RouterLink>
          </p>
          <p v-if="history.tests.length > 20" class="soft">and {{ history.tests.length - 20 }} more</p>
          <p class="soft">Retries after it took {{ (history.retryMs / 60_000).toFixed(1) }} min of machine time.</p>
        </section>
      </HistoryOf>
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
.suite {
  display: block;
}
</style>
