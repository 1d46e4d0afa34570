<script setup lang="ts">
import { computed, ref, watch } from 'vue';
import { useRoute, useRouter } from 'vue-router';
import type { ContrastView } from '../../core/contrast/view.ts';
import { api } from '../api.ts';
import BackToBack from '../contrast/BackToBack.vue';
import Differences from '../contrast/Differences.vue';
import { useKeys } from '../keys.ts';
import { useChanges } from '../live.ts';
import Strip from '../parts/Strip.vue';
import Trouble from '../parts/Trouble.vue';
import { plural } from '../words.ts';

/** Failing against passing attempts: where they part, and what tells them apart. */
type Where = 'same' | 'all' | 'elsewhere';
/** Passing attempts of where, by turns: of its own environment, of all, and of the others only, which sets place against place. */
const nextWhere: Record<Where, Where | undefined> = { same: 'all', all: 'elsewhere', elsewhere: undefined };

interface Answer extends ContrastView {
  test: { id: string; suite: string; title: string };
  run: string | null;
  where: Where;
  /** Passing attempts in all environments. */
  elsewhere: number;
  failed: boolean;
}

const route = useRoute();
const router = useRouter();
const answer = ref<Answer>();
const error = ref<unknown>();
const chosen = ref(Math.max(0, Number(route.query.difference ?? 1) - 1) || 0);
/** Every difference the screen shows has its place in the address. */
const asked = computed(() => {
  const { failing, passing, where, with: together } = route.query;
  const parts = { failing, passing, where, with: together };
  return new URLSearchParams(
    Object.entries(parts).flatMap(([name, value]) => (typeof value === 'string' && value ? [[name, value]] : [])),
  ).toString();
});
let count = 0;
async function load(): Promise<void> {
  const ask = ++count;
  try {
    const got = await api<Answer>('GET', `/contrast?${asked.value}`);
    if (ask !== count) return;
    answer.value = got;
    error.value = undefined;
  } catch (problem) {
    if (ask === count) error.value = problem;
  }
}
watch(asked, () => void load(), { immediate: true });
useChanges(
  (change) => change.type === 'attempt' && change.id === answer.value?.left.id,
  () => void load(),
);
watch(chosen, (index) => void router.replace({ query: { ...route.query, difference: String(index + 1) } }));

const title = computed(() => {
  const view = answer.value;
  if (!view) return '';
  if (!view.right) return 'No passing attempt of this test is kept, so there is nothing to hold it against';
  if (!view.split) return 'Nothing that was recorded parts them';
  return `They part at step ${view.split.stepIndex + 1}: ${view.split.summary}`;
});
const whereWords: Record<Where, (environments: number) => string> = {
  same: () => 'same environment',
  all: (count) => plural(count, 'environment'),
  elsewhere: (count) => (count === 1 ? 'another environment only' : `${count} other environments only`),
};
const sides = computed(() => {
  const view = answer.value;
  if (!view) return { failing: '', passing: '' };
  const envs = new Set(view.passing.map(({ environment }) => environment));
  return {
    failing: `${view.failing.length} failing`,
    passing: `${view.passing.length} passing, ${route.query.passing ? 'as named' : whereWords[view.where](envs.size)}`,
  };
});
function set(name: 'where' | 'with', value: string | undefined): void {
  chosen.value = 0;
  const query = { ...route.query, difference: undefined, [name]: value };
  void router.replace({ query });
}
const open = (attempt: string, at: number): void => void router.push(`/attempts/${attempt}?at=${at.toFixed(1)}`);
/** The evidence of a difference on the bench: in the failing attempt where it shows there, else in a passing one. */
function openDifference(index: number): void {
  const one = answer.value?.differences[index];
  const here = one?.shown.find(Boolean);
  if (here) open(here.attempt, here.at);
  else if (answer.value) open(answer.value.left.id, answer.value.left.start);
}

useKeys(
  [
    { keys: '↑ ↓', does: 'difference' },
    { keys: 'Enter', does: 'on the bench' },
    { keys: 'A', does: 'passing from where' },
    { keys: 'F', does: 'whole family' },
    { keys: 'Esc', does: 'back to the attempt' },
  ],
  (event) => {
    const view = answer.value;
    if (!view) return false;
    const last = view.differences.length - 1;
    switch (event.key) {
      case 'ArrowDown':
        chosen.value = Math.min(last, chosen.value + 1);
        return true;
      case 'ArrowUp':
        chosen.value = Math.max(0, chosen.value - 1);
        return true;
      case 'Enter':
        if ((event.target as HTMLElement).closest('.board, a, .chip')) return false;
        openDifference(chosen.value);
        return true;
      case 'Escape':
        void router.push(`/attempts/${view.left.id}`);
        return true;
      case 'a':
        set('where', nextWhere[view.where]);
        return true;
      case 'f':
        set('with', route.query.with ? undefined : 'family');
        return true;
    }
    return false;
  },
);
</script>

<template>
  <Trouble v-if="error" :error="error" @again="load" />
  <div v-else-if="answer" class="contrast">
    <Strip :title="title" :edge="answer.right ? 'brick' : 'none'">
      <template #crumbs>
        <RouterLink to="/">Arrivals</RouterLink> / {{ answer.run }} /
        <RouterLink :to="`/attempts/${answer.left.id}`">{{ answer.test.title }}</RouterLink> / contrast
      </template>
      <template #under>{{
        answer.weak && answer.right
          ? 'So few attempts that what parts them may be chance; it is shown, and not to be taken for proof.'
          : ''
      }}</template>
      <div class="sides">
        <button
          class="plain-link brick"
          :aria-pressed="Boolean(route.query.with)"
          @click="set('with', route.query.with ? undefined : 'family')"
        >
          {{ sides.failing }}
        </button>
        <button
          class="plain-link sea"
          :disabled="Boolean(route.query.passing)"
          @click="set('where', nextWhere[answer.where])"
        >
          {{ sides.passing }}
        </button>
      </div>
    </Strip>
    <BackToBack :view="answer" :chosen="chosen" @open="open" />
    <Differences
      v-if="answer.right"
      :view="answer"
      :chosen="chosen"
      @choose="(index) => (chosen = index)"
      @open="openDifference"
    />
    <section v-else class="none">
      <p v-if="answer.where === 'same' && answer.elsewhere">
        In other environments {{ plural(answer.elsewhere, 'attempt') }} of this test passed.
        <button class="plain-link sea" @click="set('where', 'all')">Hold it against those</button>
      </p>
      <p v-else>
        As soon as an attempt of this test passes and is kept, they are held against each other here. Until then its
        clues on the <RouterLink :to="`/attempts/${answer.left.id}`">bench</RouterLink> say what it shows by itself.
      </p>
    </section>
  </div>
  <p v-else class="loading soft" role="status">Holding failing against passing attempts</p>
</template>

<style scoped>
.contrast {
  height: 100%;
  display: grid;
  grid-template: auto minmax(0, 1.35fr) minmax(0, 1fr) / minmax(0, 1fr);
}
.sides {
  display: grid;
  gap: 4px;
  align-content: center;
  justify-items: end;
  white-space: nowrap;
}
.plain-link {
  border: 0;
  background: none;
  padding: 0;
  font: 600 12px var(--sans);
  text-decoration: underline;
  text-underline-offset: 3px;
  text-decoration-color: color-mix(in srgb, currentColor 35%, transparent);
  cursor: pointer;
}
.plain-link:disabled {
  text-decoration: none;
  cursor: default;
}
.brick {
  color: var(--brick-text);
}
.sea {
  color: var(--sea);
}
.none {
  padding: 14px 20px;
  background: var(--paper);
  border-top: 1px solid var(--line);
}
.loading {
  padding: 24px;
}
</style>
