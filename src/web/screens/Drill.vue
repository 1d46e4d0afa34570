<script setup lang="ts">
import Button from 'primevue/button';
import InputNumber from 'primevue/inputnumber';
import { computed, ref, watch } from 'vue';
import { useRoute, useRouter } from 'vue-router';
import type { PlaceView } from '../../core/records.ts';
import type { DrillError } from '../../core/drill/drill.ts';
import { formatDrill } from '../../core/drill/format.ts';
import { parseDrill } from '../../core/drill/parse.ts';
import { fileName } from '../../core/evidence/file-path.ts';
import { useActs } from '../act.ts';
import { api } from '../api.ts';
import { useKeys } from '../keys.ts';
import { useChanges } from '../live.ts';
import type { DrillReach } from '../../core/drill/reach.ts';
import DrillAllows from '../parts/DrillAllows.vue';
import DrillEditor from '../parts/DrillEditor.vue';
import OutcomeGlyph from '../parts/OutcomeGlyph.vue';
import RateInterval from '../parts/RateInterval.vue';
import SearchFound from '../parts/SearchFound.vue';
import Strip from '../parts/Strip.vue';
import TextDifference from '../parts/TextDifference.vue';
import Trouble from '../parts/Trouble.vue';
import type { Attempt, Family, PageReadiness, Series, SeriesView } from '../types.ts';
import { progressOf, sentenceOf } from '../series-words.ts';
import { duration, megabytes, moment, plural } from '../words.ts';

interface DrillView {
  id: string;
  title: string;
  text: string;
  /** Files that are kept with it. */
  files: { path: string; size: number }[];
  /** What it would type where, when it comes from outside. */
  asks: (DrillReach & { allowed: boolean }) | null;
  attempt: Attempt | null;
  family: Family | null;
  series: Series[];
}

const route = useRoute();
const router = useRouter();
const id = String(route.params.id);
const drill = ref<DrillView>();
const text = ref('');
const series = ref<SeriesView>();
const trials = ref(20);
/** Where trials are played, and what cannot be had there, said before anything starts. */
const places = ref<PlaceView[]>([]);
const place = ref('chromium');
const chosenPlace = computed(() => places.value.find(({ name }) => name === place.value));
void api<{ places: PlaceView[] }>('GET', '/health').then(
  (health) => {
    places.value = health.places;
    if (!chosenPlace.value?.ok) place.value = health.places.find(({ ok }) => ok)?.name ?? place.value;
  },
  () => undefined,
);
/** How the pages of the application tell that they are ready: offered where a condition may stand. */
const ready = ref<string[]>([]);
void api<{ pages: PageReadiness[] }>('GET', '/readiness').then(
  ({ pages }) =>
    (ready.value = [...new Set(pages.flatMap(({ signs }) => signs.slice(0, 1).flatMap((one) => one.condition ?? [])))]),
  () => undefined,
);
const error = ref<unknown>();
const { busy, act } = useActs();

/** The drill is checked as one types, by the same reader that plays it. */
const errors = computed((): DrillError[] => parseDrill(text.value).errors);
const lines = computed(() => text.value.split('\n').length);
const changed = computed(() => drill.value !== undefined && text.value !== drill.value.text);
/** A drill from outside waits until somebody has looked at what it types. */
const held = computed(() => drill.value?.asks?.allowed === false);
const running = computed(() => series.value?.state === 'running' || series.value?.state === 'waiting');

async function load(): Promise<void> {
  try {
    const one = await api<DrillView>('GET', `/drills/${id}`);
    if (!drill.value) text.value = one.text;
    drill.value = one;
    const wanted = String(route.query.series ?? '') || one.series[0]?.id;
    series.value = wanted ? await api<SeriesView>('GET', `/series/${wanted}`) : undefined;
    error.value = undefined;
  } catch (problem) {
    error.value = problem;
  }
}
void load();
useChanges(
  (change) =>
    change.type === 'series' || change.seriesId === series.value?.id || (change.type === 'drill' && change.id === id),
  () => void load(),
  200,
);
watch(
  () => route.query.series,
  () => void load(),
);

/** What the text is held against: the drill as it was kept, as the series played it, or another drill. */
const against = computed(() => String(route.query.against ?? ''));
interface Listed {
  id: string;
  title: string;
  createdAt: number;
}
const others = ref<Listed[]>([]);
void api<{ drills: Listed[] }>('GET', '/drills').then(
  ({ drills }) => (others.value = drills.filter((one) => one.id !== id)),
  () => undefined,
);
const other = ref<string>();
watch(
  [against, series, drill],
  async () => {
    if (against.value === 'kept') other.value = drill.value?.text;
    else if (against.value === 'played') other.value = series.value?.text ?? undefined;
    else if (!against.value) other.value = undefined;
    else {
      const found = await api<{ text: string }>('GET', `/drills/${against.value}`).catch(() => undefined);
      other.value = found?.text;
    }
  },
  { immediate: true },
);
const compare = (to: string): void => void router.replace({ query: { ...route.query, against: to || undefined } });

const save = async (): Promise<void> => {
  if (!changed.value) return;
  await api('PUT', `/drills/${id}`, { text: text.value });
  drill.value!.text = text.value;
};
const begin = (what: object, failed: string): Promise<void> =>
  act(async () => {
    await save();
    const { id: started } = await api<{ id: string }>('POST', '/series', { drillId: id, engine: place.value, ...what });
    await router.replace({ query: { ...route.query, series: started } });
    await load();
  }, failed);
const play = (): Promise<void> => begin({ trials: trials.value }, 'The series was not started');
const playUnder = (stressors: object[]): Promise<void> =>
  begin({ trials: 20, stressors }, 'The series was not started');
/** What a search may cost is said before it is begun. */
const budget = { trials: 80, minutes: 5 };
const search = (): Promise<void> => begin({ search: { budget } }, 'The search was not started');
const stop = (): Promise<void> =>
  act(async () => void (await api('DELETE', `/series/${series.value!.id}`)), 'The series could not be stopped');

useKeys(
  [
    { keys: 'P', does: 'play the trials' },
    { keys: 'O', does: 'provoke: look for what brings the failure' },
    { keys: 'S', does: 'stop' },
    { keys: 'B', does: 'bench it came from' },
  ],
  (event) => {
    const key = event.key.toLowerCase();
    if (held.value && (key === 'p' || key === 'o')) return false;
    if (key === 'p' && !errors.value.length && !running.value) void play();
    else if (key === 'o' && !errors.value.length && !running.value) void search();
    else if (key === 's' && running.value) void stop();
    else if (key === 'b' && drill.value?.attempt) void router.push(`/attempts/${drill.value.attempt.id}`);
    else return false;
    return true;
  },
);
const title = computed(() =>
  series.value ? sentenceOf(series.value, drill.value?.title ?? '') : (drill.value?.title ?? ''),
);
const stateWords = computed(() => (series.value ? progressOf(series.value, total.value) : ''));
const total = computed(() => drill.value?.series.find((one) => one.id === series.value?.id)?.trials ?? trials.value);
const pending = computed(() => (running.value ? Math.max(0, total.value - (series.value?.trials.length ?? 0)) : 0));
</script>

<template>
  <Trouble v-if="error" :error="error" @again="load" />
  <div v-else-if="drill" class="drill">
    <Strip :title="title" :edge="series && series.failed ? 'brick' : 'none'">
      <template #crumbs>
        <RouterLink to="/drills">Drills</RouterLink> / {{ drill.title }}
        <template v-if="drill.attempt">
          · from
          <RouterLink :to="`/attempts/${drill.attempt.id}`">attempt {{ drill.attempt.number }}</RouterLink></template
        >
        <template v-if="drill.family">
          · <RouterLink :to="`/dossiers/${drill.family.id}`">{{ drill.family.sentence }}</RouterLink></template
        >
      </template>
      <div class="play">
        <label for="place" class="soft">in</label>
        <select id="place" v-model="place" :disabled="running">
          <option v-for="one in places" :key="one.name" :value="one.name" :disabled="!one.ok">
            {{ one.name }}{{ one.ok ? '' : ' (down)' }}
          </option>
        </select>
        <label for="trials" class="soft">trials</label>
        <InputNumber
          v-model="trials"
          input-id="trials"
          :min="1"
          :max="1000"
          size="small"
          :input-style="{ width: '4.5rem' }"
          :disabled="running"
        />
        <Button v-if="!running" label="Play" size="small" :disabled="errors.length > 0 || busy || held" @click="play" />
        <Button
          v-if="!running"
          label="Provoke"
          size="small"
          severity="secondary"
          :title="`Looks for what brings the failure: at most ${budget.trials} trials and ${budget.minutes} minutes`"
          :disabled="errors.length > 0 || busy || held"
          @click="search"
        />
        <Button v-else label="Stop" size="small" severity="secondary" :disabled="busy" @click="stop" />
      </div>
    </Strip>
    <DrillAllows v-if="drill.asks" :drill="drill.id" :asks="drill.asks" @allowed="load" />
    <p v-if="chosenPlace?.cannot.length" class="amber cannot" role="status">
      In {{ chosenPlace.name }}: {{ chosenPlace.cannot.join(' ') }}
    </p>
    <div class="halves">
      <section class="editor" aria-label="The drill">
        <h2>
          The drill <span class="soft">{{ plural(lines, 'line') }}{{ changed ? ', changed' : '' }}</span>
          <span class="tools">
            <Button
              label="Format"
              size="small"
              severity="secondary"
              :disabled="errors.length > 0"
              @click="text = formatDrill(text)"
            />
            <label for="against" class="soft">against</label>
            <select id="against" :value="against" @change="compare(($event.target as HTMLSelectElement).value)">
              <option value="">nothing</option>
              <option value="kept">as it was kept</option>
              <option v-if="series?.text" value="played">as this series played it</option>
              <option v-for="one in others" :key="one.id" :value="one.id">
                {{ one.title }}, {{ moment(one.createdAt) }}
              </option>
            </select>
          </span>
        </h2>
        <TextDifference v-if="against && other !== undefined" :before="other" :after="text" />
        <DrillEditor v-model="text" :errors="errors" :ready="ready" />
        <ul id="faults" aria-live="polite">
          <li v-for="fault in errors.slice(0, 5)" :key="`${fault.line}:${fault.column}`" class="brick">
            line {{ fault.line }}, column {{ fault.column }}: {{ fault.message }}
          </li>
          <li v-if="!errors.length" class="soft">
            Reads well.
            {{ changed ? 'It is kept when it is played.' : 'Control and the space bar offer what may come next.' }}
          </li>
        </ul>
        <p v-if="drill.files.length" class="kept-files soft">
          Kept with it:
          <span v-for="one in drill.files" :key="one.path" :title="one.path"
            >{{ fileName(one.path) }} ({{ megabytes(one.size) }})</span
          >
        </p>
      </section>
      <section class="series" aria-label="The series">
        <template v-if="series">
          <h2>
            {{ series.search ? 'What provokes it' : 'The series' }} <span class="soft">{{ stateWords }}</span>
          </h2>
          <p v-if="series.stressors.length" class="under">Played while {{ series.under }}.</p>
          <SearchFound v-if="series.search" :series="series" :busy="busy" @play="playUnder" />
          <template v-if="!series.search">
            <ol class="trials" aria-label="Trials">
              <li v-for="trial in series.trials" :key="trial.id">
                <RouterLink
                  :to="`/attempts/${trial.id}`"
                  :title="`trial ${trial.number}: ${trial.outcome}${trial.sentence ? `, ${trial.sentence}` : ''}, ${duration(trial.durationMs)}`"
                  :aria-label="`trial ${trial.number}, ${trial.same ? 'the same failure' : trial.other ? 'another failure' : trial.outcome}`"
                >
                  <OutcomeGlyph
                    :outcome="trial.state === 'recording' ? 'unreported' : trial.other ? 'errored' : trial.outcome"
                    :size="15"
                    silent
                  />
                </RouterLink>
              </li>
              <li v-for="n in pending" :key="`p${n}`" class="to-come" aria-hidden="true" />
            </ol>
            <p class="legend soft">
              <OutcomeGlyph outcome="failed" silent /> the same failure
              <OutcomeGlyph outcome="errored" silent /> another failure <OutcomeGlyph outcome="passed" silent /> passed
            </p>
            <h2>How often it fails</h2>
            <RateInterval :rate="series.rate" :done="series.done" />
          </template>
          <p v-if="series.problem" class="brick">{{ series.problem }}</p>
          <p class="soft">
            Each trial is an attempt with its whole evidence, played in a browser context of its own. Choose one to open
            its bench.
          </p>
          <template v-if="drill.series.length > 1">
            <h2>Earlier series</h2>
            <RouterLink
              v-for="one in drill.series.filter((s) => s.id !== series!.id)"
              :key="one.id"
              :to="{ query: { ...$route.query, series: one.id } }"
              >{{ one.search ? 'A search' : plural(one.trials, 'trial') }}, {{ one.state }},
              {{ moment(one.createdAt) }}</RouterLink
            >
          </template>
        </template>
        <template v-else>
          <h2>Not played yet</h2>
          <p class="soft">
            Play runs the drill as often as you say, each time in a fresh browser context, and shows how often it fails,
            with the interval the true rate lies in.
          </p>
        </template>
      </section>
    </div>
  </div>
</template>

<style scoped>
.kept-files {
  display: flex;
  flex-wrap: wrap;
  gap: 4px 10px;
  margin: 4px 0 0;
}
.cannot {
  margin: 0;
  padding: 5px 18px;
  font-size: 12.5px;
  border-bottom: 1px solid var(--line);
}
select {
  font: inherit;
  font-size: 12.5px;
  padding: 2px 4px;
}
.drill {
  height: 100%;
  display: grid;
  grid-template: auto auto minmax(0, 1fr) / minmax(0, 1fr);
}
.play {
  display: flex;
  gap: 8px;
  align-items: center;
}
.halves {
  display: grid;
  grid-row: 3;
  grid-template-columns: minmax(0, 1.25fr) minmax(320px, 1fr);
  gap: 22px;
  padding: 12px 18px;
  min-height: 0;
}
.editor {
  display: flex;
  flex-direction: column;
  gap: 6px;
  min-height: 0;
}
.editor > .paper {
  flex: 1 1 0;
}
.editor > ol {
  flex: 0 1 auto;
  max-height: 45%;
}
.series {
  display: grid;
  gap: 10px;
  align-content: start;
  overflow: auto;
}
h2 {
  color: var(--ink);
  font-size: 13.5px;
}
.tools {
  float: right;
  display: flex;
  gap: 8px;
  align-items: center;
  font-weight: 400;
  font-size: 12.5px;
}
.tools select {
  max-width: 220px;
}
h2 .soft {
  font-weight: 400;
  margin-left: 8px;
}
.trials {
  display: flex;
  flex-wrap: wrap;
  gap: 4px;
}
.trials a {
  display: block;
  padding: 4px;
  line-height: 0;
}
.to-come {
  width: 23px;
  height: 23px;
}
.to-come::after {
  content: '';
  display: block;
  width: 5px;
  height: 5px;
  margin: 9px;
  background: var(--line);
  border-radius: 50%;
}
.legend {
  font-size: 11.5px;
  display: flex;
  gap: 6px;
  align-items: center;
}
.legend :not(:first-child) {
  margin-left: 12px;
}
</style>
