<script setup lang="ts">
import Button from 'primevue/button';
import { computed, ref, useTemplateRef } from 'vue';
import { useRoute, useRouter } from 'vue-router';
import type { AgainEnded } from '../../core/records.ts';
import { useActs } from '../act.ts';
import { api } from '../api.ts';
import { useKeys } from '../keys.ts';
import { useLoaded } from '../loaded.ts';
import OutcomeGlyph from '../parts/OutcomeGlyph.vue';
import RateInterval from '../parts/RateInterval.vue';
import Strip from '../parts/Strip.vue';
import TrialMarks from '../parts/TrialMarks.vue';
import Trouble from '../parts/Trouble.vue';
import { progressOf, sentenceOf } from '../series-words.ts';
import type { AgainView, Trial } from '../types.ts';
import { duration, moment, plural } from '../words.ts';

/** Tests that are run again: how each time ended, and what their command writes, as it writes it. */
const route = useRoute();
const router = useRouter();
const id = computed(() => String(route.params.id));
const output = ref('');
/** The character after the last that is shown. */
let shown = 0;
const pane = useTemplateRef<HTMLElement>('pane');
const { busy, act } = useActs();

async function more(): Promise<void> {
  const after = shown;
  const { text, from } = await api<{ text: string; from: number }>('GET', `/again/${id.value}/output?after=${after}`);
  // Asked for twice at once, it is shown once.
  if (!text || after !== shown) return;
  const element = pane.value;
  const follows = !element || element.scrollTop + element.clientHeight > element.scrollHeight - 30;
  // What was no longer kept when we asked is missing, and says so.
  output.value =
    (from > shown ? `${output.value}\n… ${from - shown} characters are no longer kept …\n` : output.value) + text;
  shown = from + text.length;
  // Once it is drawn, the first time with the pane itself.
  if (follows) requestAnimationFrame(() => pane.value?.scrollTo({ top: pane.value.scrollHeight }));
}
const {
  shown: again,
  error,
  load,
} = useLoaded(
  async () => {
    const told = await api<AgainView>('GET', `/again/${id.value}`);
    if (told.command) await more();
    return told;
  },
  (change) => (change.type === 'again' && change.id === id.value) || change.type === 'series',
  200,
);

const running = computed(() => again.value?.state === 'running' || again.value?.state === 'waiting');
const failedTimes = computed(() => again.value?.ended.filter((one) => !isFine(one)).length ?? 0);
const isFine = ({ code, failed }: AgainEnded): boolean => code === 0 && failed === 0;
const title = computed(() => {
  const one = again.value;
  if (!one) return '';
  const tests = one.tests.length === 1 ? one.tests[0]!.title : plural(one.tests.length, 'test');
  if (!one.command) {
    const failed = one.series.filter((series) => series.failed + series.otherFailures > 0).length;
    return running.value
      ? `${tests}, again by ${one.series.length === 1 ? 'its drill' : 'their drills'}`
      : `${failed} of ${plural(one.series.length, 'drill')} failed in up to ${plural(one.times, 'trial')}`;
  }
  if (one.state === 'waiting') return `${tests}: waits for another command to end`;
  const done = one.ended.length;
  if (running.value && done === 0) return `${tests}, again by ${one.command}`;
  return `${failedTimes.value} of ${plural(done, 'time')} failed: ${tests}`;
});
const wordsOf = (one: AgainEnded): string =>
  [
    one.signal ? `ended by ${one.signal}` : one.code === null ? 'did not start' : `exit code ${one.code}`,
    one.attempts ? `${one.failed} of ${plural(one.attempts, 'attempt')} failed` : 'nothing was recorded or reported',
    `took ${duration(one.until - one.from)}`,
  ].join(', ');
const marksOf = (
  trials: readonly Trial[],
): { number: number; attemptId: string; verdict: 'same' | 'other' | 'passed' | 'pending' }[] =>
  trials.map(({ id: attemptId, number, same, other, state }) => ({
    number,
    attemptId,
    verdict: same ? 'same' : other ? 'other' : state === 'ready' ? 'passed' : 'pending',
  }));

const stop = (): Promise<void> =>
  act(async () => {
    again.value = await api<AgainView>('DELETE', `/again/${id.value}`);
  }, 'It could not be stopped');
const repeat = (): Promise<void> =>
  act(async () => {
    const { tests, command, times, untilFails } = again.value!;
    const { id: begun } = await api<{ id: string }>('POST', '/again', {
      tests: tests.map((test) => test.id),
      by: command ?? 'drills',
      times,
      untilFails,
    });
    output.value = '';
    shown = 0;
    await router.push(`/again/${begun}`);
    await load();
  }, 'Nothing was started');
useKeys(
  [
    { keys: 'S', does: 'stop' },
    { keys: 'A', does: 'once more' },
    { keys: 'R', does: 'run sheet' },
  ],
  (event) => {
    const key = event.key.toLowerCase();
    if (key === 's' && running.value) void stop();
    else if (key === 'a' && !running.value) void repeat();
    else if (key === 'r' && again.value?.runId) void router.push(`/runs/${again.value.runId}`);
    else return false;
    return true;
  },
);
</script>

<template>
  <Trouble v-if="error" :error="error" @again="load" />
  <div v-else-if="again" class="screen">
    <Strip :title="title" :edge="failedTimes ? 'brick' : 'none'">
      <template #crumbs><RouterLink to="/">Arrivals</RouterLink> / only these again</template>
      <template #under
        >begun {{ moment(again.createdAt) }} · {{ again.times === 1 ? 'once' : `${again.times} times`
        }}{{ again.untilFails ? ' or until it fails' : '' }} ·
        {{ running ? 'under way' : again.state === 'done' ? 'done' : (again.problem ?? again.state) }}</template
      >
      <div class="acts">
        <Button v-if="running" label="Stop" size="small" severity="secondary" :disabled="busy" @click="stop" />
        <Button v-else label="Once more" size="small" severity="secondary" :disabled="busy" @click="repeat" />
        <RouterLink v-if="again.runId" :to="`/runs/${again.runId}`">its run sheet</RouterLink>
      </div>
    </Strip>
    <div v-if="again.command" class="halves">
      <section aria-label="Times">
        <h2>{{ again.command }}</h2>
        <ol class="times">
          <li v-for="(one, i) in again.ended" :key="i">
            <OutcomeGlyph :outcome="isFine(one) ? 'passed' : one.code === null ? 'interrupted' : 'failed'" silent />
            <RouterLink :to="`/runs/${one.runId}`">time {{ i + 1 }}</RouterLink>
            <span>{{ wordsOf(one) }}</span>
            <span v-if="one.problem" class="brick told">{{ one.problem }}</span>
          </li>
          <li v-if="again.state === 'running'" class="soft">
            <OutcomeGlyph outcome="unreported" silent /> time {{ again.ended.length + 1 }} of {{ again.times }} is under
            way
          </li>
        </ol>
        <h2>Tests</h2>
        <ul class="tests">
          <li v-for="test in again.tests" :key="test.id">
            {{ test.title }} <span class="soft">{{ test.suite }}</span>
          </li>
        </ul>
      </section>
      <section aria-label="What it wrote" class="wrote">
        <h2>What it wrote</h2>
        <pre ref="pane" tabindex="0" aria-live="off">{{ output || (running ? 'Nothing yet.' : 'Nothing.') }}</pre>
      </section>
    </div>
    <div v-else class="drills">
      <article v-for="one in again.series" :key="one.id">
        <h2>
          <RouterLink :to="`/drills/${one.drillId}?series=${one.id}`">{{ one.title }}</RouterLink>
          <span class="soft">{{ progressOf(one, again.times) }}</span>
        </h2>
        <p>{{ sentenceOf(one, one.title) }}</p>
        <TrialMarks :trials="marksOf(one.trials)" />
        <RateInterval :rate="one.rate" :done="one.done" />
      </article>
      <p v-if="again.series.length < again.tests.length" class="soft">
        {{ plural(again.tests.length - again.series.length, 'test') }} of {{ again.tests.length }} were never recorded
        and have no drill.
      </p>
    </div>
  </div>
</template>

<style scoped>
.screen {
  height: 100%;
  display: grid;
  grid-template: auto minmax(0, 1fr) / minmax(0, 1fr);
}
.acts {
  display: flex;
  gap: 12px;
  align-items: center;
}
.halves {
  display: grid;
  grid-template-columns: minmax(0, 1fr) minmax(0, 1.4fr);
  gap: 26px;
  padding: 12px 18px;
  min-height: 0;
}
section {
  overflow: auto;
  display: grid;
  gap: 10px;
  align-content: start;
}
.wrote {
  grid-template-rows: auto minmax(0, 1fr);
  align-content: stretch;
  overflow: hidden;
}
pre {
  margin: 0;
  overflow: auto;
  white-space: pre-wrap;
  overflow-wrap: anywhere;
  background: var(--paper);
  border: 1px solid var(--line);
  padding: 8px 12px;
}
.times,
.tests {
  list-style: none;
  margin: 0;
  padding: 0;
  display: grid;
  gap: 6px;
}
.times li {
  display: flex;
  flex-wrap: wrap;
  gap: 8px;
  align-items: center;
}
.told {
  flex-basis: 100%;
  overflow-wrap: anywhere;
}
.drills {
  overflow: auto;
  padding: 12px 18px;
  display: grid;
  gap: 18px;
  align-content: start;
}
article {
  display: grid;
  gap: 6px;
  border-bottom: 1px solid var(--line);
  padding-bottom: 12px;
}
h2 a {
  text-decoration: underline;
  text-underline-offset: 3px;
}
h2 span {
  font-weight: 400;
  padding-left: 8px;
}
</style>
