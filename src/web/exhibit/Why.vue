<script setup lang="ts">
import { computed, ref, watch } from 'vue';
import { causeNames } from '../../core/causes/cause.ts';
import type { Clue } from '../../core/clues/clue.ts';
import { isUnderstood } from '../../core/evidence/understood.ts';
import type { Source } from '../../core/clues/waits-for.ts';
import { api } from '../api.ts';
import WhatToDo from '../parts/WhatToDo.vue';
import NextTime from './NextTime.vue';
import { leastTelling } from '../stores/bench-focus.ts';
import { useBench } from '../stores/bench.ts';
import type { AdviceAnswer } from '../types.ts';
import { probability } from '../words.ts';

/** Why it failed, or should not have passed: the suspects with their clues, and what to do about them. */
const bench = useBench();
/** Less likely than this is not worth a line. */
const leastLikely = 0.02;
/** What is seen on ordinary days as well stands folded beside the clues, not here. */
const tells = ({ strength }: Clue): boolean => strength >= leastTelling;

const standing = computed(() => {
  const cleared = new Map(bench.attempt?.family?.verdict.cleared.map(({ cause, reason }) => [cause, reason]));
  return bench.suspects
    .filter((one) => one.for.length > 0 && (one.probability >= leastLikely || cleared.has(one.cause)))
    .slice(0, 5)
    .map((one) => ({
      ...one,
      for: one.for.filter(tells),
      against: one.against.filter(tells),
      cleared: cleared.get(one.cause),
    }))
    .filter((one) => one.for.length > 0 || one.cleared !== undefined);
});
const undecided = computed(() => {
  const between = (bench.wouldTell?.between ?? []).map((cause) => `“${causeNames[cause]}”`);
  if (between.length === 2) return `Can’t tell yet: ${between.join(' or ')}.`;
  return between.length ? `Can’t tell yet: ${between[0]} does not stand out.` : 'None stands out: can’t tell yet.';
});
/** Where nobody can say what its steps were, that is said first: it is why causes are missing. */
const isRead = computed(() => isUnderstood(bench.events.filter((one) => one.lane === 'step')));
function show({ event, at }: Source): void {
  if (event && at !== undefined) bench.point(event, at);
}
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
    <p v-if="!isRead" class="soft">
      Most calls of this test’s client were not understood: its steps are neither compared nor counted.
    </p>
    <p v-if="!standing.length" class="soft">
      Nothing recorded speaks for any cause{{ bench.attempt?.failure ? ': can’t tell' : '' }}.
    </p>
    <template v-else-if="bench.attempt?.undetermined">
      <p class="soft">{{ undecided }}</p>
      <ul v-if="bench.wouldTell" class="tell" aria-label="What would tell">
        <li v-for="one in bench.wouldTell.evidence" :key="one"><em>would tell</em>{{ one }}</li>
        <li v-for="{ cause, sign } in bench.wouldTell.signs" :key="cause">
          <em>would show</em><span>{{ causeNames[cause] }}: {{ sign }}</span>
        </li>
      </ul>
    </template>
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
  <section v-if="bench.waitsFor.length" aria-label="What this waits for">
    <h2>What this waits for</h2>
    <ol class="chain">
      <li v-for="one in bench.waitsFor" :key="one.key">
        <button class="plain" :disabled="!one.event" @click="show(one)">
          <b>{{ one.key }}</b> {{ one.here }}
        </button>
        <span class="soft"
          >{{ one.kind === 'act' ? 'upon' : 'after' }} it came what was looked for in {{ one.fed.hits }} of
          {{ one.fed.of }} passing attempts{{ one.asked ? `; asked for by ${one.asked}` : '' }}</span
        >
      </li>
    </ol>
  </section>
  <section v-if="bench.trials" aria-label="What trials showed">
    <h2>What trials showed</h2>
    <ul class="chain">
      <li v-for="one in bench.trials.shown.provoked" :key="one.words">
        <RouterLink :to="`/drills/${bench.trials.drillId}?series=${bench.trials.seriesId}`"
          >{{ one.failed }} of {{ one.done }} fail this way while {{ one.words }}</RouterLink
        >
      </li>
      <li v-if="!bench.trials.shown.provoked.length">
        <RouterLink :to="`/drills/${bench.trials.drillId}?series=${bench.trials.seriesId}`"
          >Nothing that was tried brings it on demand</RouterLink
        >
      </li>
    </ul>
  </section>
  <NextTime v-if="bench.attempt?.outcome === 'passed'" />
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
.chain {
  list-style: none;
  display: grid;
  gap: 4px;
  padding: 4px 0 8px;
  font-size: 12px;
  line-height: 1.35;
}
.chain li {
  display: grid;
  border-left: 2px solid var(--sea);
  padding-left: 8px;
}
.chain button {
  text-align: left;
}
.tell {
  padding: 2px 0 4px;
}
.tell li {
  display: flex;
  gap: 8px;
  font-size: 12px;
  line-height: 1.35;
}
.tell em {
  flex-basis: 84px;
  color: var(--soft);
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
