<script setup lang="ts">
import { computed, nextTick, ref, watch } from 'vue';
import { useRouter } from 'vue-router';
import { api } from '../api.ts';
import { historyQuery, useHistoryAsked } from '../history-query.ts';
import { useKeys } from '../keys.ts';
import { useLoaded } from '../loaded.ts';
import HistoryFilter from '../parts/HistoryFilter.vue';
import RateChart from '../parts/RateChart.vue';
import Trouble from '../parts/Trouble.vue';
import type { WholeHistory } from '../types.ts';
import { duration, moment, percent, plural } from '../words.ts';

/** Whether it got better: rates over weeks, what to mend first, which causes, what stands open. */
const router = useRouter();
const asked = useHistoryAsked();
const {
  shown: history,
  error,
  load,
} = useLoaded(
  () => api<WholeHistory>('GET', `/history?${historyQuery(asked)}`),
  ({ type }) => type === 'run' || type === 'family' || type === 'attempt',
  // While attempts come in, what counts over weeks changes little.
  30_000,
);
watch(asked, () => void load());

const minutes = (ms: number): string => (ms < 60_000 ? duration(ms) : `${(ms / 60_000).toFixed(1)} min`);
const retries = computed(() => history.value?.points.reduce((sum, { retryMs }) => sum + retryMs, 0) ?? 0);
/** Causes over the whole span, the most frequent first, each with its days. */
const causes = computed(() => {
  const sums = new Map<string, number>();
  for (const { name, attempts } of history.value?.causes ?? []) sums.set(name, (sums.get(name) ?? 0) + attempts);
  const days = [...new Set(history.value?.causes.map(({ day }) => day))];
  const most = Math.max(1, ...(history.value?.causes.map(({ attempts }) => attempts) ?? []));
  return [...sums]
    .sort((a, b) => b[1] - a[1])
    .map(([name, sum]) => ({
      name,
      sum,
      days: days.map((day) => {
        const count = history.value!.causes.find((one) => one.day === day && one.name === name)?.attempts ?? 0;
        return { day, count, height: (count / most) * 18 };
      }),
    }));
});

const chosen = ref(0);
async function choose(i: number): Promise<void> {
  chosen.value = Math.max(0, Math.min((history.value?.mendFirst.length ?? 1) - 1, i));
  await nextTick();
  document.querySelector<HTMLElement>('.mend .chosen a')?.focus();
}
useKeys(
  [
    { keys: '↑ ↓', does: 'test' },
    { keys: 'Enter', does: 'its history' },
    { keys: 'B', does: 'by day or by commit' },
  ],
  (event) => {
    const inList = document.activeElement?.closest('.mend') !== null;
    if (event.key === 'ArrowDown') void choose(inList ? chosen.value + 1 : chosen.value);
    else if (event.key === 'ArrowUp') void choose(chosen.value - 1);
    else if (event.key === 'Enter' && !(event.target as HTMLElement).closest('a, button')) {
      const one = history.value?.mendFirst[chosen.value];
      if (one) void router.push(`/tests/${one.test}`);
    } else if (event.key.toLowerCase() === 'b') asked.per = asked.per === 'day' ? 'commit' : 'day';
    else return false;
    return true;
  },
);
</script>

<template>
  <Trouble v-if="error" :error="error" @again="load" />
  <div v-else-if="history" class="trends">
    <div class="screen-head">
      <h1>Trends</h1>
      <p class="soft" role="status">
        {{ plural(history.runs, 'run') }}, retries took {{ minutes(retries) }} of machine time<template
          v-if="history.ofPoints > history.points.length"
          >; the last {{ history.points.length }} of {{ history.ofPoints }} {{ asked.per }}s</template
        >
      </p>
      <HistoryFilter
        v-model="asked"
        :branches="history.branches"
        :suites="history.suites"
        :environments="history.environments"
      />
    </div>
    <p v-if="!history.runs" class="soft">
      No run began in these days. Trends need runs: choose a longer time, or bring in reports, old ones too; they count
      by the times they tell.
    </p>
    <template v-else>
      <section class="panel" aria-label="Rates">
        <RateChart
          :points="history.points"
          label="Tests that failed, and that passed only on retry"
          :csv="`/api/history?${historyQuery(asked)}&as=csv`"
        />
      </section>
      <section class="panel mend" aria-label="Mend these first">
        <h2>Mend these first</h2>
        <p v-if="!history.mendFirst.length" class="soft">Nothing failed in the last weeks.</p>
        <table v-else>
          <thead>
            <tr class="soft">
              <th scope="col">test</th>
              <th scope="col">fails at first</th>
              <th scope="col">red by it alone</th>
              <th scope="col">retries</th>
              <th scope="col">cause</th>
              <th scope="col">so since</th>
            </tr>
          </thead>
          <tbody>
            <tr v-for="(one, i) in history.mendFirst.slice(0, 20)" :key="one.test" :class="{ chosen: i === chosen }">
              <th scope="row">
                <small class="soft one-line">{{ one.suite || '—' }}</small>
                <RouterLink :to="`/tests/${one.test}`" class="one-line" @focus="chosen = i">{{ one.title }}</RouterLink>
              </th>
              <td>
                {{ one.failed + one.flaky }} of {{ one.ran }}
                <span class="soft interval">{{ percent(one.rate.low) }} to {{ percent(one.rate.high) }}</span>
              </td>
              <td>{{ one.weeklyRed ? `${one.weeklyRed.toFixed(1)} runs a week` : '—' }}</td>
              <td>{{ one.weeklyMs ? `${minutes(one.weeklyMs)} a week` : '—' }}</td>
              <td>
                <RouterLink v-if="one.family" :to="`/dossiers/${one.family}`">{{
                  one.cause ?? 'no suspect stands out'
                }}</RouterLink>
              </td>
              <td class="soft">{{ one.since === null ? 'the beginning' : moment(one.since) }}</td>
            </tr>
          </tbody>
        </table>
      </section>
      <div class="pair">
        <section class="panel" aria-label="Causes over time">
          <h2>Causes over time</h2>
          <p v-if="!causes.length" class="soft">Nothing failed.</p>
          <div v-for="one in causes" :key="one.name" class="cause">
            <span class="one-line">{{ one.name }}</span>
            <svg :width="Math.min(320, one.days.length * 7)" height="20" aria-hidden="true">
              <rect
                v-for="({ height, day }, i) in one.days"
                :key="day"
                :x="i * Math.min(7, 320 / one.days.length)"
                :y="19 - height"
                :width="Math.min(5, 240 / one.days.length)"
                :height="height + 1"
              />
            </svg>
            <b>{{ one.sum }}</b>
          </div>
        </section>
        <section class="panel" aria-label="Open families">
          <h2>Open families, the oldest first</h2>
          <p v-if="!history.open.length" class="soft">Every family is settled.</p>
          <p v-for="one in history.open.slice(0, 12)" :key="one.id" class="open">
            <RouterLink :to="`/dossiers/${one.id}`" class="one-line">{{ one.sentence }}</RouterLink>
            <span :class="one.cameBack ? 'brick' : 'soft'">{{
              one.cameBack ? 'came back' : `open for ${plural(one.days, 'day')}`
            }}</span>
          </p>
        </section>
      </div>
    </template>
  </div>
</template>

<style scoped>
.trends {
  padding: 14px 18px 18px;
  display: grid;
  grid-template-columns: minmax(0, 1fr);
  gap: 12px;
}
table {
  border-collapse: collapse;
  table-layout: fixed;
  width: 100%;
}
th {
  text-align: left;
  font-weight: 400;
}
thead th:first-child {
  width: 36%;
}
td,
tbody th {
  padding: 4px 14px 4px 0;
  border-bottom: 1px solid var(--line);
}
tr.chosen {
  background: var(--timber-pale);
  box-shadow: inset 3px 0 var(--timber);
}
tr.chosen a {
  color: var(--ink);
}
tbody th {
  padding-left: 8px;
}
th small,
th a {
  display: block;
}
.pair .panel {
  align-content: start;
}
.pair {
  display: grid;
  grid-template-columns: minmax(0, 1fr) minmax(0, 1fr);
  gap: 12px;
}
.cause {
  display: grid;
  grid-template-columns: 180px minmax(0, 1fr) 40px;
  gap: 12px;
  align-items: end;
}
.cause rect {
  fill: var(--brick);
}
.cause b {
  font-weight: 600;
  text-align: right;
}
.interval {
  white-space: nowrap;
}
.open {
  display: flex;
  justify-content: space-between;
  gap: 14px;
}
.open span {
  white-space: nowrap;
}
</style>
