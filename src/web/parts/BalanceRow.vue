<script setup lang="ts">
import { computed } from 'vue';
import { causeNames } from '../../core/causes/cause.ts';
import type { FamilyClue, FamilySuspect } from '../../core/causes/family.ts';
import type { Verdict } from '../types.ts';
import { probability } from '../words.ts';

/** One suspect on the balance: evidence against it to the left, for it to the right. */
const props = defineProps<{
  suspect: FamilySuspect;
  verdict: Verdict;
  chosen: boolean;
}>();
const emit = defineEmits<{ confirm: []; clear: []; stand: [] }>();
const cleared = computed(() => props.verdict.cleared.find((entry) => entry.cause === props.suspect.cause));
const confirmed = computed(() => props.verdict.confirmed === props.suspect.cause);
const width = (clue: FamilyClue): string => `${Math.round(20 + clue.strength * 72)}px`;
const place = (clue: FamilyClue): string => `/attempts/${clue.attempt}?at=${clue.at.toFixed(1)}&clue=${clue.code}`;
const often = ({ found: [hits, of] }: FamilyClue): string => (of > 1 ? ` · in ${hits} of ${of} attempts` : '');
</script>

<template>
  <div class="row" :class="{ chosen }">
    <div class="name">
      <RouterLink :to="`/causes/${suspect.cause}`" :class="{ struck: cleared }">{{
        causeNames[suspect.cause]
      }}</RouterLink>
      <p class="soft">
        {{ confirmed ? 'confirmed' : cleared ? `cleared${cleared.reason ? `: ${cleared.reason}` : ''}` : 'standing' }} ·
        probability {{ probability(suspect.probability) }}
      </p>
      <p class="acts">
        <button v-if="!confirmed" class="plain sea" @click="emit('confirm')">Confirm</button>
        <button v-if="!cleared && !confirmed" class="plain sea" @click="emit('clear')">Clear</button>
        <button v-if="cleared || confirmed" class="plain sea" @click="emit('stand')">Let it stand again</button>
      </p>
    </div>
    <div class="against">
      <RouterLink v-for="clue in suspect.against" :key="clue.code" :to="place(clue)"
        ><i :style="{ width: width(clue) }" /><span class="soft">{{ clue.summary }}{{ often(clue) }}</span></RouterLink
      >
    </div>
    <div class="for">
      <RouterLink v-for="clue in suspect.for" :key="clue.code" :to="place(clue)"
        ><i :style="{ width: width(clue) }" /><span class="soft">{{ clue.summary }}{{ often(clue) }}</span></RouterLink
      >
    </div>
  </div>
</template>

<style scoped>
.row {
  display: grid;
  grid-template-columns: 236px minmax(0, 0.8fr) minmax(0, 1fr);
  border-bottom: 1px solid var(--line);
  border-left: 3px solid transparent;
}
.row.chosen {
  border-left-color: var(--timber);
  background: var(--paper);
}
.name {
  padding: 8px 10px;
}
/* What it is, and what else remedies it, stands on the page of the cause. */
.name > a {
  display: inline;
  text-decoration: underline;
  text-decoration-color: var(--line);
  text-underline-offset: 3px;
  font-weight: 600;
  font-size: 13.5px;
}
.struck {
  text-decoration: line-through;
  color: var(--soft);
}
.acts {
  display: flex;
  gap: 14px;
  font-size: 12px;
  padding-top: 2px;
}
.against,
.for {
  padding: 9px 8px;
  display: grid;
  gap: 6px;
  align-content: start;
  min-width: 0;
}
.against {
  border-right: 2px solid var(--ink);
  justify-items: end;
  text-align: right;
}
a {
  display: grid;
  gap: 2px;
  color: inherit;
  font-size: 11.5px;
  line-height: 1.3;
}
.against a {
  justify-items: end;
}
a i {
  height: 13px;
}
.against i {
  background: var(--sea-pale);
  border: 1px solid var(--sea);
}
.for i {
  background: var(--brick-pale);
  border: 1px solid var(--brick);
}
</style>
