<script setup lang="ts">
import { computed, ref, watch } from 'vue';
import { useRoute, useRouter } from 'vue-router';
import { literal } from '../../core/patterns/literal.ts';
import { api } from '../api.ts';
import { useKeys } from '../keys.ts';
import OutcomeGlyph from '../parts/OutcomeGlyph.vue';
import Strip from '../parts/Strip.vue';
import Trouble from '../parts/Trouble.vue';
import { moment, plural, seconds } from '../words.ts';

interface Hit {
  attemptId: string;
  title: string;
  suite: string;
  outcome: string;
  environment: string;
  startedAt: number;
  moments: { at: number | null; text: string }[];
}
interface Found {
  tests: {
    id: string;
    suite: string;
    title: string;
    attemptId?: string;
    outcome?: string;
    startedAt?: number;
    runId?: string;
  }[];
  moreTests: boolean;
  groups: { kind: 'message' | 'console' | 'request' | 'step' | 'note'; more: boolean; hits: Hit[] }[];
  notes: { familyId: string; text: string }[];
}

const route = useRoute();
const router = useRouter();
const words = computed(() => String(route.query.words ?? ''));
const typed = ref(words.value);
const found = ref<Found>();
const error = ref<unknown>();
async function load(): Promise<void> {
  typed.value = words.value;
  if (!words.value) return;
  try {
    found.value = await api<Found>('GET', `/find?words=${encodeURIComponent(words.value)}`);
    error.value = undefined;
  } catch (problem) {
    error.value = problem;
  }
}
watch(words, () => void load(), { immediate: true });
const search = (): void => void router.replace({ query: { words: typed.value.trim() } });

const names = {
  message: 'Failures',
  console: 'Console lines',
  request: 'Requests',
  step: 'Steps',
  note: 'Notes of tests',
};
const groups = computed(() => found.value?.groups.filter((group) => group.hits.length) ?? []);
const count = computed(() =>
  found.value
    ? found.value.tests.length +
      found.value.notes.length +
      groups.value.reduce((sum, group) => sum + group.hits.length, 0)
    : 0,
);
const title = computed(() =>
  !words.value
    ? 'Find'
    : !found.value
      ? `Looking for “${words.value}”`
      : count.value
        ? `“${words.value}” in ${plural(count.value, 'place')}`
        : `“${words.value}” is nowhere`,
);
const address = (hit: Hit, at: number | null): string =>
  `/attempts/${hit.attemptId}${at === null ? '' : `?at=${Math.round(at)}`}`;

useKeys(
  [
    { keys: '↑ ↓', does: 'place' },
    { keys: 'Enter', does: 'open its moment' },
    { keys: '/', does: 'words' },
  ],
  (event) => {
    const links = [...document.querySelectorAll<HTMLAnchorElement>('.found a')];
    const at = links.indexOf(document.activeElement as HTMLAnchorElement);
    if (event.key === 'ArrowDown') links[Math.min(links.length - 1, at + 1)]?.focus();
    else if (event.key === 'ArrowUp') links[Math.max(0, at - 1)]?.focus();
    else if (event.key === '/') document.getElementById('look-for')?.focus();
    else return false;
    return true;
  },
);
/** The text cut where the words stand, so that they are seen. */
function marked(text: string): { text: string; on: boolean }[] {
  const terms = words.value.toLowerCase().match(/[\p{L}\p{N}]+/gu) ?? [];
  if (!terms.length) return [{ text, on: false }];
  const pattern = new RegExp(`(${terms.map((term) => literal(term)).join('|')})`, 'gi');
  const first = text.toLowerCase().indexOf(terms[0]!);
  const from = first > 90 ? first - 60 : 0;
  const cut = `${from ? '…' : ''}${text.slice(from, from + 220)}`;
  return cut.split(pattern).map((part, i) => ({ text: part, on: i % 2 === 1 }));
}
</script>

<template>
  <div>
    <Strip :title="title">
      <template #crumbs><RouterLink to="/">Arrivals</RouterLink> / find</template>
      <form role="search" class="again" @submit.prevent="search">
        <label for="look-for" class="spoken">Words to find</label>
        <input id="look-for" v-model="typed" type="search" />
        <button class="plain sea">Find</button>
      </form>
    </Strip>
    <Trouble v-if="error" :error="error" @again="load" />
    <p v-else-if="!words" class="none soft">
      Words, codes and addresses are looked for in tests, failures, console lines, requests, steps and notes of every
      run kept here. Every word must be there; the last may go on.
    </p>
    <p v-else-if="found && !count" class="none soft">
      No test, failure, console line, request, step or note has all of these words. Fewer words find more; addresses are
      found by their parts.
    </p>
    <div v-else-if="found" class="found">
      <section v-if="found.tests.length">
        <h2>
          Tests<span v-if="found.moreTests"> · the first {{ found.tests.length }}</span>
        </h2>
        <RouterLink
          v-for="test in found.tests"
          :key="test.id"
          class="hit"
          :to="test.attemptId ? `/attempts/${test.attemptId}` : '/'"
        >
          <OutcomeGlyph v-if="test.outcome" :outcome="test.outcome" />
          <span class="what one-line"
            ><template v-for="(part, i) in marked(test.title)" :key="i"
              ><mark v-if="part.on">{{ part.text }}</mark
              ><template v-else>{{ part.text }}</template></template
            ></span
          >
          <span class="soft one-line">{{ test.suite }}</span>
          <span class="soft">{{ test.startedAt ? moment(test.startedAt) : '' }}</span>
        </RouterLink>
      </section>
      <section v-for="group in groups" :key="group.kind">
        <h2>
          {{ names[group.kind] }}<span v-if="group.more"> · the newest {{ group.hits.length }}</span>
        </h2>
        <template v-for="hit in group.hits" :key="hit.attemptId">
          <RouterLink v-for="(one, i) in hit.moments" :key="i" class="hit" :to="address(hit, one.at)">
            <OutcomeGlyph :outcome="hit.outcome" />
            <span class="what one-line" :class="{ mono: group.kind === 'console' || group.kind === 'request' }"
              ><template v-for="(part, j) in marked(one.text)" :key="j"
                ><mark v-if="part.on">{{ part.text }}</mark
                ><template v-else>{{ part.text }}</template></template
              ></span
            >
            <span class="soft one-line">{{ hit.title }}</span>
            <span class="soft">{{ one.at === null ? moment(hit.startedAt) : `at ${seconds(one.at)}` }}</span>
          </RouterLink>
        </template>
      </section>
      <section v-if="found.notes.length">
        <h2>Remarks on families</h2>
        <RouterLink
          v-for="note in found.notes"
          :key="note.familyId + note.text"
          class="hit"
          :to="`/dossiers/${note.familyId}`"
        >
          <span /><span class="what one-line">{{ note.text }}</span>
        </RouterLink>
      </section>
    </div>
  </div>
</template>

<style scoped>
.again {
  display: flex;
  gap: 10px;
  align-items: center;
}
.again input {
  width: 320px;
  font: inherit;
  padding: 5px 9px;
  background: var(--ground);
  border: 1px solid var(--line);
  color: var(--ink);
}
.none {
  padding: 24px 18px;
  max-width: 720px;
}
.found {
  padding: 4px 18px 18px;
}
section h2 {
  padding: 12px 0 4px;
}
.hit {
  display: grid;
  grid-template-columns: 16px minmax(0, 1fr) 300px 110px;
  gap: 12px;
  align-items: center;
  padding: 4px 10px;
  background: var(--paper);
  border: 1px solid var(--line);
  border-top-width: 0;
  color: var(--ink);
}
section h2 + .hit {
  border-top-width: 1px;
}
.hit:hover,
.hit:focus-visible {
  background: var(--timber-pale);
  text-decoration: none;
}
.hit > :last-child {
  text-align: right;
}
mark {
  background: var(--amber-pale);
  color: inherit;
}
</style>
