<script setup lang="ts">
import InputText from 'primevue/inputtext';
import { computed, ref, watch } from 'vue';
import { useRoute, useRouter } from 'vue-router';
import { isFailure, standingOf } from '../../core/evidence/attempt.ts';
import { api } from '../api.ts';
import { useKeys } from '../keys.ts';
import { useChanges } from '../live.ts';
import FamilyRows from '../parts/FamilyRows.vue';
import OutcomeBar from '../parts/OutcomeBar.vue';
import OutcomeGlyph from '../parts/OutcomeGlyph.vue';
import Strip from '../parts/Strip.vue';
import Trouble from '../parts/Trouble.vue';
import type { Attempt, Run } from '../types.ts';
import { duration, moment, plural } from '../words.ts';

const route = useRoute();
const router = useRouter();
const id = String(route.params.id);
const run = ref<Run>();
const attempts = ref<Attempt[]>([]);
const error = ref<unknown>();
const words = ref(String(route.query.words ?? ''));
const show = ref(String(route.query.show ?? 'all'));
const tag = ref(String(route.query.tag ?? ''));

async function load(): Promise<void> {
  try {
    const [one, list] = await Promise.all([
      api<Run>('GET', `/runs/${id}`),
      api<{ attempts: Attempt[] }>('GET', `/runs/${id}/attempts`),
    ]);
    run.value = one;
    attempts.value = list.attempts;
    error.value = undefined;
  } catch (problem) {
    error.value = problem;
  }
}
void load();
useChanges(
  (change) => change.type === 'family' || change.runId === id,
  () => void load(),
);
watch(
  [words, show, tag],
  () =>
    void router.replace({
      query: {
        ...(words.value ? { words: words.value } : {}),
        ...(show.value === 'all' ? {} : { show: show.value }),
        ...(tag.value ? { tag: tag.value } : {}),
      },
    }),
);

/** The environment with most failures first: that is where one looks. */
const environments = computed(() => {
  const failures = new Map<string, number>();
  for (const { environment, outcome } of attempts.value) {
    failures.set(environment.key, (failures.get(environment.key) ?? 0) + Number(isFailure(outcome)));
  }
  return [...failures.keys()].sort((a, b) => failures.get(b)! - failures.get(a)! || a.localeCompare(b));
});
const tags = computed(() => [...new Set(attempts.value.flatMap((a) => a.labels.tags ?? []))].sort());

interface Row {
  id: string;
  suite: string;
  title: string;
  cells: Map<string, Attempt[]>;
  standing: string;
  durationMs: number;
}
const order = ['failed', 'errored', 'flaky', 'interrupted', 'unreported', 'skipped', 'passed'];
const rows = computed((): Row[] => {
  const byTest = new Map<string, Row>();
  for (const attempt of attempts.value) {
    if (tag.value && !attempt.labels.tags?.includes(tag.value)) continue;
    let row = byTest.get(attempt.test.id);
    if (!row)
      byTest.set(
        attempt.test.id,
        (row = {
          id: attempt.test.id,
          suite: attempt.test.suite,
          title: attempt.test.title,
          cells: new Map(),
          standing: 'passed',
          durationMs: 0,
        }),
      );
    const cell = row.cells.get(attempt.environment.key);
    if (cell) cell.push(attempt);
    else row.cells.set(attempt.environment.key, [attempt]);
    row.durationMs = Math.max(row.durationMs, attempt.durationMs);
  }
  const needle = words.value.trim().toLowerCase();
  for (const row of byTest.values()) {
    row.standing =
      [...row.cells.values()].map(standingOf).sort((a, b) => order.indexOf(a) - order.indexOf(b))[0] ?? 'passed';
  }
  return [...byTest.values()]
    .filter((row) => !needle || `${row.suite} ${row.title}`.toLowerCase().includes(needle))
    .filter(
      (row) =>
        show.value === 'all' || row.standing === show.value || (show.value === 'failed' && row.standing === 'errored'),
    )
    .sort(
      (a, b) =>
        order.indexOf(a.standing) - order.indexOf(b.standing) ||
        a.suite.localeCompare(b.suite) ||
        a.title.localeCompare(b.title),
    );
});

const title = computed(() => {
  const { totals, families } = run.value ?? { totals: undefined, families: [] };
  if (!totals) return '';
  const failures = families.reduce((sum, family) => sum + family.attempts.length, 0);
  const parts = [
    failures
      ? `${plural(failures, 'failure')} in ${plural(families.length, 'family', 'families')}`
      : `No failures in ${plural(totals.tests, 'test')}`,
  ];
  if (totals.flaky) parts.push(`${plural(totals.flaky, 'test')} passed only on retry`);
  if (totals.interrupted) parts.push(`${totals.interrupted} interrupted`);
  return parts.join('; ');
});

const at = ref({ row: 0, column: 0 });
const chosen = computed(() => rows.value[at.value.row]?.cells.get(environments.value[at.value.column] ?? ''));
const toOpen = (cell: Attempt[] | undefined): Attempt | undefined =>
  cell?.find((a) => a.outcome === 'failed' || a.outcome === 'errored') ?? cell?.[0];
useKeys(
  [
    { keys: '↑ ↓ ← →', does: 'cell' },
    { keys: 'Enter', does: 'bench' },
    { keys: 'V', does: 'verdict' },
    { keys: '/', does: 'words' },
  ],
  (event) => {
    const { row, column } = at.value;
    if (event.key === 'ArrowDown') at.value = { row: Math.min(rows.value.length - 1, row + 1), column };
    else if (event.key === 'ArrowUp') at.value = { row: Math.max(0, row - 1), column };
    else if (event.key === 'ArrowRight')
      at.value = { row, column: Math.min(environments.value.length - 1, column + 1) };
    else if (event.key === 'ArrowLeft') at.value = { row, column: Math.max(0, column - 1) };
    else if (event.key === 'Enter' && !(event.target as HTMLElement).closest('a, button')) {
      const attempt = toOpen(chosen.value);
      if (attempt) void router.push(`/attempts/${attempt.id}`);
    } else if (event.key.toLowerCase() === 'v') {
      const family = chosen.value?.find((a) => a.familyId)?.familyId;
      if (family) void router.push(`/dossiers/${family}`);
    } else if (event.key === '/') document.getElementById('words')?.focus();
    else return false;
    document.querySelector('.cell.chosen')?.scrollIntoView({ block: 'nearest' });
    return true;
  },
);
const isChosen = (row: number, column: number): boolean => at.value.row === row && at.value.column === column;
</script>

<template>
  <Trouble v-if="error" :error="error" @again="load" />
  <div v-else-if="run" class="sheet">
    <Strip :title="title" :edge="run.families.length ? 'brick' : 'none'">
      <template #crumbs><RouterLink to="/">Arrivals</RouterLink> / {{ run.name }}</template>
      <div class="about soft">
        <p>
          <template v-if="run.commit"
            >commit <span class="mono">{{ run.commit.slice(0, 7) }}</span> · </template
          ><template v-if="run.branch">{{ run.branch }} · </template>{{ moment(run.startedAt) }} ·
          {{ plural(run.totals.tests, 'test') }} ×
          {{ plural(environments.length, 'environment') }}
        </p>
        <OutcomeBar :totals="run.totals" />
      </div>
    </Strip>
    <div class="body">
      <FamilyRows v-if="run.families.length" :families="run.families" />
      <div class="filter">
        <label for="words" class="spoken">Words in suite or title</label>
        <InputText
          id="words"
          v-model="words"
          placeholder="words in suite or title"
          size="small"
          @keydown.esc="($event.target as HTMLElement).blur()"
        />
        <button
          v-for="name in tags"
          :key="name"
          class="tag"
          :class="{ on: tag === name }"
          :aria-pressed="tag === name"
          @click="tag = tag === name ? '' : name"
        >
          {{ name }}
        </button>
        <span class="soft">show</span>
        <button
          v-for="name in ['all', 'failed', 'flaky', 'passed']"
          :key="name"
          class="plain pick"
          :class="{ on: show === name }"
          :aria-pressed="show === name"
          @click="show = name"
        >
          {{ name }}
        </button>
        <span class="soft count">{{ plural(rows.length, 'test') }}</span>
      </div>
      <table v-if="rows.length" class="matrix">
        <thead>
          <tr>
            <th scope="col" class="soft">test</th>
            <th v-for="environment in environments" :key="environment" scope="col">{{ environment }}</th>
            <th scope="col" class="soft time">longest</th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="(row, r) in rows" :key="row.id" :class="{ chosen: r === at.row }">
            <th scope="row">
              <small class="soft">{{ row.suite }}</small><span :class="{ strong: row.standing !== 'passed' }">{{
                row.title
              }}</span>
            </th>
            <td
              v-for="(environment, c) in environments"
              :key="environment"
              class="cell"
              :class="{ chosen: isChosen(r, c) }"
              @click="at = { row: r, column: c }"
            >
              <RouterLink
                v-for="attempt in row.cells.get(environment) ?? []"
                :key="attempt.id"
                :to="`/attempts/${attempt.id}`"
                :aria-label="`${row.title}, attempt ${attempt.number}, ${attempt.outcome}`"
                :title="`attempt ${attempt.number}: ${attempt.outcome}${attempt.failure ? `: ${attempt.failure.sentence}` : ''}`"
              >
                <OutcomeGlyph :outcome="attempt.state === 'recording' ? 'unreported' : attempt.outcome" silent />
              </RouterLink>
            </td>
            <td class="time soft">{{ duration(row.durationMs) }}</td>
          </tr>
        </tbody>
      </table>
      <p v-else class="none soft">
        No test fits this filter.
        <button
          class="plain sea"
          @click="
            words = '';
            show = 'all';
            tag = '';
          "
        >
          Show all {{ run.totals.tests }}
        </button>
      </p>
      <p class="legend soft">
        <span
          v-for="name in ['passed', 'failed', 'flaky', 'errored', 'skipped', 'interrupted', 'unreported']"
          :key="name"
          ><OutcomeGlyph :outcome="name" silent /> {{ name }}</span
        >
      </p>
    </div>
  </div>
</template>

<style scoped>
.about {
  text-align: right;
  display: grid;
  gap: 8px;
  min-width: 360px;
}
.body {
  padding: 12px 18px 18px;
}
.filter {
  display: flex;
  gap: 10px;
  align-items: center;
  background: var(--paper);
  border: 1px solid var(--line);
  padding: 4px 12px;
  margin: 12px 0 8px;
  min-height: 38px;
}
.tag {
  border: 0;
  border-radius: 10px;
  background: var(--ground);
  padding: 2px 12px;
  cursor: pointer;
  font-size: 12px;
}
.tag.on {
  background: var(--timber-pale);
}
.pick.on {
  font-weight: 600;
}
.count {
  margin-left: auto;
}
.matrix {
  border-collapse: collapse;
  width: 100%;
}
.matrix th {
  text-align: left;
  font-weight: 600;
  padding: 5px 10px;
}
.matrix tbody th {
  font-weight: 400;
  width: 42%;
}
.matrix th small {
  display: block;
  font-size: 11.5px;
}
.matrix .strong {
  font-weight: 600;
}
.matrix tr {
  border-bottom: 1px solid var(--line);
}
.matrix tbody tr.chosen {
  background: var(--timber-pale);
  box-shadow: inset 3px 0 var(--timber);
}
.cell {
  padding: 4px 6px;
}
.cell.chosen {
  box-shadow: inset 0 0 0 1.5px var(--ink);
}
.cell a {
  padding: 4px;
  display: inline-block;
  line-height: 1;
}
.time {
  text-align: right !important;
  width: 90px;
  padding-right: 10px;
}
.none {
  padding: 24px 4px;
}
.legend {
  display: flex;
  gap: 16px;
  justify-content: flex-end;
  padding-top: 10px;
  font-size: 11.5px;
}
</style>
