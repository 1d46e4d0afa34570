<script setup lang="ts">
import InputText from 'primevue/inputtext';
import { computed, ref, shallowRef, watch } from 'vue';
import { useRoute, useRouter } from 'vue-router';
import type { EvidenceFile } from '../../core/records.ts';
import { filterRows, marks, sheetRows, type Mark, type Sheet, type SheetAttempt } from '../../core/sheet.ts';
import { api } from '../api.ts';
import { useKeys } from '../keys.ts';
import { useChanges } from '../live.ts';
import FamilyRows from '../parts/FamilyRows.vue';
import IntakeBands from '../parts/IntakeBands.vue';
import OutcomeBar from '../parts/OutcomeBar.vue';
import RemoveRun from '../parts/RemoveRun.vue';
import RunAgain from '../parts/RunAgain.vue';
import OutcomeGlyph from '../parts/OutcomeGlyph.vue';
import SheetMatrix from '../parts/SheetMatrix.vue';
import SheetOrder from '../parts/SheetOrder.vue';
import SheetPlaces from '../parts/SheetPlaces.vue';
import Strip from '../parts/Strip.vue';
import Tray from '../parts/Tray.vue';
import Trouble from '../parts/Trouble.vue';
import { useTell } from '../tell.ts';
import type { Run } from '../types.ts';
import { moment, plural } from '../words.ts';

const route = useRoute();
const router = useRouter();
const tell = useTell();
const id = String(route.params.id);
const run = ref<Run>();
const sheet = shallowRef<Sheet & { waiting: number }>();
const files = ref<EvidenceFile[]>([]);
const error = ref<unknown>();
const asked = (name: string, otherwise = ''): string => String(route.query[name] ?? otherwise);
const words = ref(asked('words'));
const show = ref(asked('show', 'all'));
const tag = ref(asked('tag'));
const environment = ref(asked('environment'));
const family = ref(asked('family'));
const view = ref(asked('view', 'matrix'));
const tray = ref(asked('tray') === 'open');
const allFamilies = ref(asked('families') === 'all');
const receiving = ref(false);
const again = ref(false);

async function load(): Promise<void> {
  try {
    const [one, all, left] = await Promise.all([
      api<Run>('GET', `/runs/${id}`),
      api<Sheet & { waiting: number }>('GET', `/runs/${id}/sheet`),
      api<{ files: EvidenceFile[] }>('GET', `/runs/${id}/files`),
    ]);
    run.value = one;
    sheet.value = all;
    files.value = left.files;
    error.value = undefined;
  } catch (problem) {
    error.value = problem;
  }
}
void load();
useChanges(
  (change) => change.type === 'family' || change.runId === id || (change.type === 'run' && change.id === id),
  () => void load(),
);
watch([words, show, tag, environment, family, view, tray, allFamilies], () => {
  const query: Record<string, string> = {};
  const put = (name: string, value: string, otherwise = ''): void => {
    if (value !== otherwise) query[name] = value;
  };
  put('words', words.value);
  put('show', show.value, 'all');
  put('tag', tag.value);
  put('environment', environment.value);
  put('family', family.value);
  put('view', view.value, 'matrix');
  put('tray', tray.value ? 'open' : '');
  put('families', allFamilies.value ? 'all' : '');
  void router.replace({ query });
});

const allRows = computed(() => (sheet.value ? sheetRows(sheet.value) : []));
const rows = computed(() =>
  sheet.value
    ? filterRows(sheet.value, allRows.value, {
        words: words.value,
        show: show.value,
        tag: tag.value,
        environment: environment.value,
        family: family.value,
      })
    : [],
);
/** The environment with most failures first: that is where one looks. */
const order = computed(() => {
  const failures = sheet.value?.environments.map(() => 0) ?? [];
  for (const attempt of sheet.value?.attempts ?? [])
    if (attempt[3] === 'failed' || attempt[3] === 'errored') failures[attempt[1]]!++;
  return failures.map((_, i) => i).sort((a, b) => failures[b]! - failures[a]!);
});
const environments = computed(() => order.value.map((i) => sheet.value!.environments[i]!));
/** The same rows with their cells in the order of the columns. */
const columnRows = computed(() => rows.value.map((row) => ({ ...row, cells: order.value.map((i) => row.cells[i]!) })));
const tags = computed(() => [...new Set(sheet.value?.tests.flatMap((test) => test.tags))].sort());
const untimed = computed(() => run.value !== undefined && run.value.from === run.value.until);

const title = computed(() => {
  const { totals, families } = run.value ?? { totals: undefined, families: [] };
  if (!totals) return '';
  const failures = families.reduce((sum, one) => sum + one.count, 0);
  const parts = [
    failures
      ? `${plural(failures, 'failure')} in ${plural(families.length, 'family', 'families')}`
      : `No failures in ${plural(totals.tests, 'test')}`,
  ];
  if (totals.flaky) parts.push(`${plural(totals.flaky, 'test')} passed only on retry`);
  if (totals.against) parts.push(`${plural(totals.against, 'test')} passed against the rules`);
  if (totals.interrupted) parts.push(`${totals.interrupted} interrupted`);
  return parts.join('; ');
});

const marked = (mark: Mark): boolean => sheet.value?.attempts.some((attempt) => attempt[9] === mark) ?? false;
const shows = computed(() => [
  'all',
  'failed',
  'flaky',
  'passed',
  ...(marked(marks.against) || show.value === 'against' ? ['against'] : []),
  'other',
]);
const legend = computed(() => [
  'passed',
  'doubtful',
  ...(marked(marks.against) ? ['against the rules'] : []),
  ...(marked(marks.told) ? ['told of'] : []),
  ...['failed', 'flaky', 'errored', 'skipped', 'interrupted', 'unreported'],
]);

const at = ref({ row: 0, column: 0 });
const chosen = computed(() => columnRows.value[at.value.row]?.cells[at.value.column]);
/** What may be run again: all that is shown, that which failed of it, the cell that is looked at. */
const choices = computed(() => {
  const ids = rows.value.map((row) => row.id);
  const failed = rows.value
    .filter(({ standing }) => standing !== 'passed' && standing !== 'skipped')
    .map((row) => row.id);
  const row = rows.value[at.value.row];
  return [
    ...(failed.length && failed.length < ids.length
      ? [{ words: `what did not pass of them: ${plural(failed.length, 'test')}`, tests: failed }]
      : []),
    { words: `all that the filter shows: ${plural(ids.length, 'test')}`, tests: ids },
    ...(row && ids.length > 1 ? [{ words: `only “${row.title}”`, tests: [row.id] }] : []),
  ];
});
const toOpen = (cell: SheetAttempt[] | undefined): SheetAttempt | undefined =>
  cell?.find((attempt) => attempt[3] === 'failed' || attempt[3] === 'errored') ?? cell?.[0];
useKeys(
  [
    { keys: '↑ ↓ ← →', does: 'cell' },
    { keys: 'Enter', does: 'bench' },
    { keys: 'V', does: 'verdict' },
    { keys: 'A', does: 'these again' },
    { keys: 'T', does: 'tray' },
    { keys: 'G', does: 'families' },
    { keys: '/', does: 'words' },
  ],
  (event) => {
    const { row, column } = at.value;
    const last = rows.value.length - 1;
    if (event.key === 'ArrowDown') at.value = { row: Math.min(last, row + 1), column };
    else if (event.key === 'ArrowUp') at.value = { row: Math.max(0, row - 1), column };
    else if (event.key === 'PageDown') at.value = { row: Math.min(last, row + 15), column };
    else if (event.key === 'PageUp') at.value = { row: Math.max(0, row - 15), column };
    else if (event.key === 'ArrowRight')
      at.value = { row, column: Math.min(environments.value.length - 1, column + 1) };
    else if (event.key === 'ArrowLeft') at.value = { row, column: Math.max(0, column - 1) };
    else if (event.key === 'Enter' && !(event.target as HTMLElement).closest('a, button')) {
      const attempt = toOpen(chosen.value);
      if (attempt) void router.push(`/attempts/${attempt[4]}`);
    } else if (event.key.toLowerCase() === 'v') {
      const index = chosen.value?.find((attempt) => attempt[7] >= 0)?.[7];
      if (index !== undefined) void router.push(`/dossiers/${sheet.value!.families[index]}`);
    } else if (event.key.toLowerCase() === 'g') allFamilies.value = !allFamilies.value;
    else if (event.key.toLowerCase() === 'a') again.value = rows.value.length > 0;
    else if (event.key.toLowerCase() === 't') tray.value = !tray.value;
    else if (event.key === '/') document.getElementById('words')?.focus();
    else return false;
    return true;
  },
);

async function place(file: string, attemptId: string | null, aside = false): Promise<void> {
  receiving.value = false;
  try {
    await api('POST', `/files/${file}/place`, aside ? { aside: true } : { attemptId });
    await load();
  } catch (problem) {
    tell('The file could not be moved', problem);
  }
}
/** Sets what names no zone to one; the files are placed anew by it. */
async function setZone(minutes: number): Promise<void> {
  try {
    await api('POST', `/runs/${id}/zone`, { minutes });
    await load();
  } catch (problem) {
    tell('The zone could not be set', problem);
  }
}
function clear(): void {
  words.value = tag.value = environment.value = family.value = '';
  show.value = 'all';
}
const familyName = computed(() => run.value?.families.find((one) => one.id === family.value)?.sentence ?? family.value);
</script>

<template>
  <Trouble v-if="error" :error="error" @again="load" />
  <div v-else-if="run && sheet" class="sheet">
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
        <p class="gives">
          as <a :href="`/api/runs/${id}/junit`">JUnit XML</a>, <a :href="`/api/runs/${id}/table`">CSV</a> ·
          <RemoveRun :run="id" :name="run.name" />
        </p>
      </div>
    </Strip>
    <div class="body">
      <IntakeBands />
      <FamilyRows v-if="run.families.length" v-model:all="allFamilies" :families="run.families" :at="run.startedAt" />
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
          v-for="name in tags.slice(0, 8)"
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
          v-for="name in shows"
          :key="name"
          class="plain pick"
          :class="{ on: show === name }"
          :aria-pressed="show === name"
          @click="show = name"
        >
          {{ name === 'against' ? 'against the rules' : name }}
        </button>
        <template v-if="environments.length > 1">
          <label for="environment" class="soft">in</label>
          <select id="environment" v-model="environment">
            <option value="">every environment</option>
            <option v-for="name in environments" :key="name">{{ name }}</option>
          </select>
        </template>
        <template v-if="run.families.length > 1">
          <label for="family" class="soft">of</label>
          <select id="family" v-model="family" :title="familyName">
            <option value="">every family</option>
            <option v-for="one in run.families" :key="one.id" :value="one.id">{{ one.sentence }}</option>
          </select>
        </template>
        <span class="soft count">{{ plural(rows.length, 'test') }}</span>
        <button class="plain sea" :disabled="!rows.length" @click="again = true">Run again</button>
      </div>
      <div class="views">
        <button
          v-for="[name, label] in [
            ['matrix', 'tests by environment'],
            ['order', 'order and neighbours'],
            ['places', 'environments compared'],
          ]"
          :key="name"
          class="plain pick"
          :class="{ on: view === name }"
          :aria-pressed="view === name"
          @click="view = name!"
        >
          {{ label }}
        </button>
        <button v-if="files.length" class="plain tray-switch" :aria-expanded="tray" @click="tray = !tray">
          <template v-if="sheet.waiting"
            ><span class="amber">{{ plural(sheet.waiting, 'file') }} to place</span></template
          ><template v-else>{{ plural(files.length, 'file') }}, all placed</template>
        </button>
      </div>
      <Tray
        v-if="tray"
        :files="files"
        :sheet="sheet"
        :chosen="toOpen(chosen)"
        @place="place"
        @drag="receiving = $event"
        @zone="setZone"
      />
      <SheetOrder v-if="view === 'order'" :sheet="sheet" :from="run.from" :untimed="untimed" />
      <SheetPlaces v-else-if="view === 'places'" :sheet="sheet" :rows="rows" />
      <SheetMatrix
        v-else-if="rows.length"
        :rows="columnRows"
        :environments="environments"
        :at="at"
        :receiving="receiving"
        @choose="(row, column) => (at = { row, column })"
        @place="(file, attempt) => place(file, attempt[4])"
      />
      <p v-else class="none soft">
        No test fits this filter.
        <button class="plain sea" @click="clear">Show all {{ run.totals.tests }}</button>
      </p>
      <RunAgain v-model:open="again" :choices="choices" :run="id" />
      <p class="legend soft">
        <span v-for="name in legend" :key="name"><OutcomeGlyph :outcome="name" silent /> {{ name }}</span>
      </p>
    </div>
  </div>
</template>

<style scoped>
.about {
  text-align: right;
  display: grid;
  gap: 5px;
  min-width: 360px;
}
.gives {
  font-size: 11.5px;
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
  margin: 12px 0 6px;
  min-height: 38px;
}
.filter select {
  font: inherit;
  font-size: 12px;
  color: var(--ink);
  background: var(--ground);
  border: 1px solid var(--line);
  padding: 3px 6px;
  max-width: 190px;
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
  white-space: nowrap;
}
.views {
  display: flex;
  gap: 18px;
  padding: 2px 12px 8px;
}
.tray-switch {
  margin-left: auto;
  text-decoration: underline;
  text-underline-offset: 3px;
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
