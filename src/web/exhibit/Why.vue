<script setup lang="ts">
import { computed, ref, watch } from 'vue';
import { causeNames } from '../../core/causes/cause.ts';
import type { Clue } from '../../core/clues/clue.ts';
import { api } from '../api.ts';
import WhatToDo from '../parts/WhatToDo.vue';
import { useBench } from '../stores/bench.ts';
import type { AdviceAnswer } from '../types.ts';
import { probability } from '../words.ts';

/** Why it failed, or should not have passed: the suspects with their clues, and what to do about them. */
const bench = useBench();
/** Less likely than this is not worth a line. */
const leastLikely = 0.02;

const standing = computed(() => {
  const cleared = new Map(bench.attempt?.family?.verdict.cleared.map(({ cause, reason }) => [cause, reason]));
  return bench.suspects
    .filter((one) => one.for.length > 0 && (one.probability >= leastLikely || cleared.has(one.cause)))
    .slice(0, 5)
    .map((one) => ({ ...one, cleared: cleared.get(one.cause) }));
});
const numberOf = (clue: Clue): number =>
  bench.loud.findIndex((one) => one.code === clue.code && one.at === clue.at) + 1;
function open(clue: Clue): void {
  bench.chooseCode(clue.code, clue.at);
}
const told = ref<AdviceAnswer>();
const trouble = ref('');
watch(
  () => [bench.attempt?.id, bench.attempt?.state, bench.suspects] as const,
  async ([id, state]) => {
    if (!id || state !== 'ready') return;
    try {
      const answer = await api<AdviceAnswer>('GET', `/attempts/${id}/advice`);
      if (bench.attempt?.id === id) told.value = answer;
      trouble.value = '';
    } catch (problem) {
      trouble.value = (problem as Error).message;
    }
  },
  { immediate: true },
);
</script>

<template>
  <section aria-label="Suspects">
    <h2>Suspects</h2>
    <p v-if="!standing.length" class="soft">
      Nothing recorded speaks for any cause{{ bench.attempt?.failure ? ': can’t tell' : '' }}.
    </p>
    <p v-else-if="bench.attempt?.undetermined" class="soft">None stands out: can’t tell yet.</p>
    <article v-for="one in standing" :key="one.cause" :aria-label="causeNames[one.cause]">
      <h3>
        <RouterLink :to="`/causes/${one.cause}`" :class="{ struck: one.cleared !== undefined }">{{
          causeNames[one.cause]
        }}</RouterLink>
        <span class="soft"
          >{{ one.cleared === undefined ? '' : `cleared${one.cleared ? `: ${one.cleared}` : ''} · `
          }}{{ probability(one.probability) }}</span
        >
      </h3>
      <i class="weight" :style="{ width: `${Math.max(1, one.probability * 100)}%` }" />
      <ul>
        <li v-for="clue in one.for" :key="clue.code">
          <button
            class="plain"
            :aria-pressed="numberOf(clue) > 0 && bench.clue === numberOf(clue) - 1"
            @click="open(clue)"
          >
            <em>for</em>{{ clue.summary }}
          </button>
        </li>
        <li v-for="clue in one.against" :key="clue.code">
          <button class="plain against" @click="open(clue)"><em>against</em>{{ clue.summary }}</button>
        </li>
      </ul>
    </article>
  </section>
  <section aria-label="What to do">
    <h2 class="what">What to do</h2>
    <p v-if="trouble" class="brick">{{ trouble }}</p>
    <WhatToDo
      v-else-if="told && bench.attempt"
      :advice="told.advice"
      :from="told.from"
      :attempt="bench.attempt.id"
      here
      @show="bench.point"
    />
    <p v-else class="soft" role="status">Drawing it from the passing attempts</p>
    <p v-if="told?.advice.length" class="soft from">
      Drawn from {{ told.from.passing }} passing and {{ told.from.failing }} failing
      {{ told.from.passing + told.from.failing === 1 ? 'attempt' : 'attempts' }}.
    </p>
  </section>
</template>

<style scoped>
.what {
  padding-bottom: 6px;
}
.from {
  padding-top: 8px;
}
article {
  display: grid;
  gap: 3px;
  padding: 6px 0;
  border-bottom: 1px solid var(--line);
}
h3 {
  display: flex;
  justify-content: space-between;
  gap: 10px;
  font-size: 13px;
  font-weight: 600;
}
h3 span {
  font-weight: 400;
}
h3 a {
  color: var(--ink);
  text-decoration: underline;
  text-decoration-color: var(--line);
  text-underline-offset: 3px;
}
.struck {
  text-decoration: line-through;
}
.weight {
  height: 4px;
  background: var(--brick);
}
ul {
  list-style: none;
}
li button {
  display: flex;
  gap: 8px;
  width: 100%;
  text-align: left;
  font-size: 12px;
  line-height: 1.35;
  padding: 2px 0;
}
li button:hover,
li button[aria-pressed='true'] {
  background: var(--ground);
}
em {
  font-style: normal;
  color: var(--brick);
  flex: 0 0 46px;
}
.against em {
  color: var(--sea);
}
</style>
