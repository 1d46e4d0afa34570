<script setup lang="ts">
import Button from 'primevue/button';
import { computed, ref } from 'vue';
import { useRoute, useRouter } from 'vue-router';
import { causeNames } from '../../core/causes/cause.ts';
import { useActs } from '../act.ts';
import { api } from '../api.ts';
import { useKeys } from '../keys.ts';
import { useLoaded } from '../loaded.ts';
import ProofFound from '../parts/ProofFound.vue';
import SearchFound from '../parts/SearchFound.vue';
import Strip from '../parts/Strip.vue';
import Trouble from '../parts/Trouble.vue';
import type { MendingView, Verdict } from '../types.ts';
import { progressOf } from '../series-words.ts';
import { moment } from '../words.ts';

/** A failure that is provoked, mended and proven in one go: what provokes it on the left, what mends it on the right. */
const route = useRoute();
const router = useRouter();
const id = computed(() => String(route.params.id));
const {
  shown: mending,
  error,
  load,
} = useLoaded(
  () => api<MendingView>('GET', `/mendings/${id.value}`),
  (change) => change.type === 'series' || change.type === 'mending',
  200,
);
const { busy, act } = useActs();

const running = computed(() => mending.value?.state === 'running');
const searching = computed(
  () => mending.value?.search?.state === 'running' || mending.value?.search?.state === 'waiting',
);
const proof = computed(() => mending.value?.proofs.at(-1));
const mended = computed(() => proof.value?.verdict === 'mends');
const title = computed(() => {
  const one = mending.value;
  if (!one) return '';
  const [finding] = one.search?.findings ?? [];
  if (mended.value) return `Mended: ${lower(proof.value!.remedyWords)}`;
  if (one.state !== 'running') return one.ended ?? one.problem ?? 'Stopped';
  if (searching.value || !one.search) return 'Looking for what provokes it';
  if (proof.value) return `Provoked; trying the ${ordinal(one.proofs.length)} remedy`;
  return finding ? 'Provoked; looking for a remedy' : 'Looking for what provokes it';
});
const lower = (words: string): string => `${words[0]!.toLowerCase()}${words.slice(1)}`;
const ordinal = (n: number): string => ['first', 'second', 'third'][n - 1] ?? `${n}th`;

const stop = (): Promise<void> =>
  act(async () => {
    mending.value = await api<MendingView>('DELETE', `/mendings/${id.value}`);
  }, 'It could not be stopped');
/** The drill with the remedy in it becomes one of its own. */
const keep = (): Promise<void> =>
  act(async () => {
    const { id: made } = await api<{ id: string }>('POST', '/drills', { text: proof.value!.drillAfter });
    await router.push(`/drills/${made}?against=${mending.value!.drillId}`);
  }, 'No drill was made');
/** What trials proved, a person confirms: the family then has its cause. */
const confirmed = ref(false);
const cause = computed(() => (mended.value ? (proof.value?.cause ?? undefined) : undefined));
const confirm = (): Promise<void> =>
  act(async () => {
    const family = `/families/${mending.value!.attempt!.familyId}`;
    const text = `Provoked, mended and proven: ${proof.value!.words}`;
    // What others noted stays.
    const { verdict } = await api<{ verdict: Verdict }>('GET', family);
    await api('POST', `${family}/decisions`, { kind: 'confirm', cause: cause.value, text });
    await api('POST', `${family}/decisions`, { kind: 'note', text: [verdict.note, text].filter(Boolean).join('\n') });
    confirmed.value = true;
  }, 'The cause was not confirmed');
const playUnder = (stressors: object[]): Promise<void> =>
  act(async () => {
    const { id: begun } = await api<{ id: string }>('POST', '/series', {
      drillId: mending.value!.drillId,
      trials: 20,
      stressors,
    });
    await router.push(`/drills/${mending.value!.drillId}?series=${begun}`);
  }, 'The series was not started');

useKeys(
  [
    { keys: 'S', does: 'stop' },
    { keys: 'D', does: 'the drill' },
    { keys: 'B', does: 'bench it came from' },
  ],
  (event) => {
    const key = event.key.toLowerCase();
    if (key === 's' && running.value) void stop();
    else if (key === 'd' && mending.value) void router.push(`/drills/${mending.value.drillId}`);
    else if (key === 'b' && mending.value) void router.push(`/attempts/${mending.value.attemptId}`);
    else return false;
    return true;
  },
);
</script>

<template>
  <Trouble v-if="error" :error="error" @again="load" />
  <div v-else-if="mending" class="mending">
    <Strip :title="title" :edge="mended ? 'none' : 'brick'">
      <template #crumbs>
        <RouterLink to="/">Arrivals</RouterLink> /
        <RouterLink :to="`/attempts/${mending.attemptId}`">{{
          mending.attempt?.test.title ?? 'the attempt'
        }}</RouterLink>
        / provoke, mend, prove
      </template>
      <template #under
        >begun {{ moment(mending.createdAt) }}, in {{ mending.engine
        }}{{ running ? '; what was played is kept when it is stopped, and goes on if Iskel is' : '' }}</template
      >
      <div class="acts">
        <Button v-if="running" label="Stop" size="small" severity="secondary" :disabled="busy" @click="stop" />
        <Button
          v-if="cause && mending.attempt?.familyId && !confirmed"
          :label="`Confirm: ${causeNames[cause]}`"
          size="small"
          :disabled="busy"
          @click="confirm"
        />
        <RouterLink v-if="confirmed" :to="`/dossiers/${mending.attempt!.familyId}`"
          >confirmed, see its dossier</RouterLink
        >
        <Button
          v-if="mended"
          label="Keep as a drill"
          size="small"
          severity="secondary"
          :disabled="busy"
          @click="keep"
        />
      </div>
    </Strip>
    <div class="halves">
      <section aria-label="What provokes it">
        <h2>
          What provokes it
          <span v-if="mending.search" class="soft">{{
            progressOf(mending.search, mending.search.search!.budget.trials)
          }}</span>
        </h2>
        <SearchFound v-if="mending.search" :series="mending.search" :busy="busy" @play="playUnder" />
      </section>
      <section aria-label="What mends it" class="mends">
        <h2>What mends it</h2>
        <p v-if="searching" class="soft">
          Once it can be provoked, what is advised on it is tried, the likeliest first: the drill is played as it was
          and with the remedy, provoked and with nothing wrong, in turns.
        </p>
        <p v-else-if="!mending.proofs.length" :class="running ? 'soft' : 'words'">
          {{ running ? 'Looking through what is advised …' : (mending.ended ?? mending.problem ?? '') }}
        </p>
        <ProofFound v-for="one in [...mending.proofs].reverse()" :key="one.id" :proof="one" />
        <p v-if="mending.proofs.length && mending.ended && !mended" class="words">{{ mending.ended }}</p>
        <p v-if="mending.problem" class="brick">{{ mending.problem }}</p>
        <p v-if="!running && !mended" class="soft">
          <RouterLink :to="`/attempts/${mending.attemptId}?side=why`"
            >What speaks for and against each cause</RouterLink
          >
          stands on the bench.
        </p>
      </section>
    </div>
  </div>
</template>

<style scoped>
.mending {
  height: 100%;
  display: grid;
  grid-template: auto minmax(0, 1fr) / minmax(0, 1fr);
}
.acts {
  display: flex;
  gap: 8px;
  align-items: center;
}
.halves {
  display: grid;
  grid-template-columns: minmax(0, 1fr) minmax(0, 1.15fr);
  gap: 26px;
  padding: 12px 18px;
  min-height: 0;
}
section {
  overflow: auto;
  display: grid;
  gap: 10px;
  align-content: start;
  min-height: 0;
}
h2 {
  color: var(--ink);
  font-size: 13.5px;
}
h2 .soft {
  font-weight: 400;
  margin-left: 8px;
}
p {
  margin: 0;
}
.words {
  font-size: 14px;
  font-weight: 600;
}
</style>
