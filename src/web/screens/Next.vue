<script setup lang="ts">
import { computed, nextTick, reactive, ref, watch } from 'vue';
import { useRoute, useRouter } from 'vue-router';
import { riskNames } from '../../core/risks/words.ts';
import type { RiskKind } from '../../core/risks/risk.ts';
import { api } from '../api.ts';
import { useKeys } from '../keys.ts';
import { useLoaded } from '../loaded.ts';
import ReadySigns from '../parts/ReadySigns.vue';
import RiskRows from '../parts/RiskRows.vue';
import Trouble from '../parts/Trouble.vue';
import type { OutlookList, PageReadiness } from '../types.ts';
import { percent, plural } from '../words.ts';

/** What will flake next: tests that pass, by how likely they will not for long, each with the line to change. */
const [route, router] = [useRoute(), useRouter()];
const text = (name: string): string => String(route.query[name] ?? '');
const asked = reactive({ kind: text('kind'), suite: text('suite'), words: text('words'), green: text('green') });
const parts = (): [string, string][] => Object.entries(asked).filter(([, value]) => value !== '');
const csv = computed(() => `/api/outlook?${new URLSearchParams([...parts(), ['as', 'csv']]).toString()}`);
const page = 50;
const pages = ref(1);
const {
  shown: list,
  error,
  load,
} = useLoaded(
  () => api<OutlookList>('GET', `/outlook?${new URLSearchParams([...parts(), ['count', String(page * pages.value)]])}`),
  ({ type }) => type === 'attempt',
  10_000,
);
watch(asked, () => {
  pages.value = 1;
  chosen.value = 0;
  void router.replace({ query: Object.fromEntries(parts()) });
  void load();
});
const more = (): void => {
  pages.value = Math.min(4, pages.value + 1);
  void load();
};

/** Learnt once over all tests; it changes little while one looks. */
const ready = ref<PageReadiness[]>([]);
void api<{ pages: PageReadiness[] }>('GET', '/readiness').then(
  ({ pages: known }) => (ready.value = known.slice(0, 12)),
  () => undefined,
);

const chosen = ref(0);
const shown = computed(() => list.value?.tests[chosen.value]);
const rows = ref<InstanceType<typeof RiskRows>>();
async function choose(i: number): Promise<void> {
  chosen.value = Math.max(0, Math.min((list.value?.tests.length ?? 1) - 1, i));
  await nextTick();
  document.querySelector<HTMLElement>('.tests .chosen button')?.focus();
}
/** What the kind that is asked for is. */
const about = computed(() => list.value?.kinds.find(({ kind }) => kind === asked.kind)?.about);
/** The first two different kinds of what is told of a test. */
const reasons = ({ risks }: OutlookList['tests'][number]): string =>
  [...new Set(risks.map(({ kind }) => riskNames[kind]))].slice(0, 2).join(' · ');
const filtered = computed(() => parts().length > 0);
const clear = (): void => void Object.assign(asked, { kind: '', suite: '', words: '', green: '' });
const stands = ({ ran, failed }: OutlookList['tests'][number]['lately']): string =>
  failed ? `failed in ${failed} of the last ${ran}` : `green in ${ran === 1 ? 'its one attempt' : `the last ${ran}`}`;

useKeys(
  [
    { keys: '↑ ↓', does: 'test' },
    { keys: '← →', does: 'risk' },
    { keys: 'Enter', does: 'its moment' },
    { keys: 'T', does: 'the test over time' },
    { keys: 'G', does: 'only those that never failed' },
  ],
  (event) => {
    const key = event.key.toLowerCase();
    if (event.key === 'ArrowDown') void choose(chosen.value + 1);
    else if (event.key === 'ArrowUp') void choose(chosen.value - 1);
    else if (event.key === 'ArrowRight') rows.value?.step(1);
    else if (event.key === 'ArrowLeft') rows.value?.step(-1);
    else if (key === 't' && shown.value) void router.push(`/tests/${shown.value.test.id}`);
    else if (key === 'g') asked.green = asked.green ? '' : 'true';
    else if (event.key === 'Enter' && (event.target as HTMLElement).closest('.tests')) rows.value?.open();
    else return false;
    return true;
  },
);
</script>

<template>
  <Trouble v-if="error" :error="error" @again="load" />
  <div v-else-if="list" class="next">
    <div class="screen-head">
      <h1>What will flake next</h1>
      <p class="soft" role="status">
        {{ list.total }} of {{ plural(list.looked, 'test') }} with passing attempts{{ filtered ? ', as asked' : '' }}
      </p>
      <div class="narrowed">
        <input v-model.lazy="asked.words" type="search" placeholder="words of a test" aria-label="Words of a test" />
        <select v-if="list.suites.length > 1 || asked.suite" v-model="asked.suite" aria-label="suite">
          <option value="">every suite</option>
          <option v-for="one in list.suites" :key="one" :value="one">{{ one || 'no suite' }}</option>
        </select>
        <button
          class="plain"
          :class="{ on: asked.green }"
          :aria-pressed="asked.green !== ''"
          @click="asked.green = asked.green ? '' : 'true'"
        >
          never failed
        </button>
        <a :href="csv">CSV</a>
      </div>
    </div>
    <div v-if="!list.looked" class="panel empty">
      <h2>Nothing has passed yet that could be looked at</h2>
      <p>
        Whenever a recorded test passes, its steps are looked through for what held this time by luck: fixed sleeps,
        waits that nearly ran out, elements used as they arrived, locators that match several. Record a run (<RouterLink
          to="/"
          >Arrivals</RouterLink
        >
        says how), or bring in evidence packs; reports without evidence do not tell.
      </p>
    </div>
    <template v-else>
      <div v-if="list.kinds.length" class="kinds" role="group" aria-label="Kinds of risk">
        <button
          v-for="one in list.kinds"
          :key="one.kind"
          class="kind"
          :class="{ on: asked.kind === one.kind }"
          :aria-pressed="asked.kind === one.kind"
          @click="asked.kind = asked.kind === one.kind ? '' : one.kind"
        >
          {{ riskNames[one.kind as RiskKind] }} <b>{{ one.tests }}</b>
        </button>
      </div>
      <p v-if="about" class="soft" role="status">{{ about }}</p>
      <p v-if="!list.tests.length" class="panel">
        <template v-if="filtered"
          >No test is as asked. <button class="plain link" @click="clear">Show all that are listed</button></template
        ><template v-else
          >Nothing that was seen in passing attempts makes any of {{ plural(list.looked, 'test') }} likely to
          flake.</template
        >
      </p>
      <div v-else class="halves">
        <ol class="tests panel" aria-label="Tests, the likeliest first">
          <li v-for="(one, i) in list.tests" :key="one.test.id" :class="{ chosen: i === chosen }">
            <button class="plain" :aria-pressed="i === chosen" @click="chosen = i" @focus="chosen = i">
              <span class="likely" :aria-label="`likely to flake: ${percent(one.score)}`"
                ><i :style="{ width: `${one.score * 100}%` }"></i
              ></span>
              <span class="name">
                <small class="soft one-line">{{ one.test.suite || '—' }}</small>
                <span class="one-line">{{ one.test.title }}</span>
              </span>
              <span class="why one-line">{{ reasons(one) }}</span>
              <span :class="['lately', one.lately.failed ? 'brick' : 'soft']">{{ stands(one.lately) }}</span>
            </button>
          </li>
          <li v-if="list.tests.length < list.total" class="more">
            <button v-if="pages < 4" class="plain link" @click="more">
              Show more of the {{ list.total - list.tests.length }} others
            </button>
            <span v-else class="soft">{{ list.total - list.tests.length }} more: the CSV has all, or ask for less</span>
          </li>
        </ol>
        <section v-if="shown" class="panel told" :aria-label="`Risks of ${shown.test.title}`">
          <h2>{{ shown.test.title }}</h2>
          <p class="soft">
            likely to flake: <b>{{ percent(shown.score) }}</b>, by {{ plural(shown.attempts, 'passing attempt') }} ·
            <RouterLink :to="`/tests/${shown.test.id}`" class="link">over time</RouterLink>
          </p>
          <RiskRows :key="shown.test.id" ref="rows" :risks="shown.risks" />
        </section>
      </div>
      <section v-if="ready.length" class="panel" aria-label="When pages are ready">
        <h2>When pages are ready</h2>
        <p class="soft">What to wait for instead of a time: found over the passing attempts of all tests.</p>
        <div class="pages">
          <div v-for="one in ready" :key="one.page">
            <h3 class="mono">{{ one.page }}</h3>
            <ReadySigns :page="one" />
          </div>
        </div>
      </section>
    </template>
  </div>
</template>

<style scoped>
.next {
  padding: 14px 18px 18px;
  display: grid;
  grid-template-columns: minmax(0, 1fr);
  gap: 12px;
}
.kinds {
  display: flex;
  flex-wrap: wrap;
  gap: 6px;
}
.kind {
  font: inherit;
  font-size: 12px;
  color: var(--ink);
  background: none;
  border: 1px solid var(--line);
  padding: 2px 8px;
  cursor: pointer;
}
.kind.on {
  background: var(--amber-pale);
  border-color: var(--amber);
}
.kind b {
  font-weight: 400;
  color: var(--soft);
  padding-left: 4px;
}
.halves {
  display: grid;
  grid-template-columns: minmax(0, 11fr) minmax(0, 10fr);
  gap: 12px;
  align-items: start;
}
.tests {
  list-style: none;
  margin: 0;
  padding: 4px 0;
  gap: 0;
}
.tests li {
  border-bottom: 1px solid var(--line);
}
.tests li:last-child {
  border-bottom: 0;
}
.tests li > button {
  width: 100%;
  display: grid;
  grid-template-columns: 46px minmax(0, 1fr) auto;
  gap: 0 12px;
  padding: 5px 14px;
  align-items: center;
}
.tests .chosen {
  background: var(--timber-pale);
  box-shadow: inset 3px 0 var(--timber);
}
.name > * {
  display: block;
}
.likely {
  grid-row: span 2;
  height: 8px;
  background: var(--fold);
}
.likely i {
  display: block;
  height: 100%;
  background: var(--amber);
}
.name {
  grid-column: 2;
}
.why {
  grid-column: 2;
  font-size: 12px;
  color: var(--amber-text);
}
.lately {
  grid-column: 3;
  grid-row: 1;
  font-size: 12px;
  white-space: nowrap;
  align-self: end;
}
.more {
  padding: 8px 14px;
}
.more > button {
  display: inline !important;
  width: auto !important;
  padding: 0 !important;
}
.told {
  position: sticky;
  top: 12px;
  max-height: calc(100vh - 110px);
  overflow: auto;
}
.told b {
  font-weight: 600;
  color: var(--ink);
}
.pages {
  display: grid;
  grid-template-columns: repeat(auto-fill, minmax(360px, 1fr));
  gap: 14px 26px;
}
.pages h3 {
  font-size: 12.5px;
  font-weight: 600;
  padding-bottom: 4px;
}
.link {
  text-decoration: underline;
}
.empty {
  max-width: 72ch;
}
</style>
