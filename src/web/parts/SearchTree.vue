<script setup lang="ts">
import { computed } from 'vue';
import type { Phase } from '../../core/trials/search.ts';
import { plural } from '../words.ts';
import type { SearchArm } from '../types.ts';
import TrialMarks from './TrialMarks.vue';

/** What a search has tried so far, by what it was trying it for. */
const props = defineProps<{ arms: SearchArm[] }>();
const phases: [Phase, string][] = [
  ['fitting', 'Fitting the drill to its test'],
  ['as it is', 'As it is'],
  ['looking', 'Looking for what brings it'],
  ['smallest set', 'Leaving out what is not needed'],
  ['dose', 'How much it takes'],
  ['sure', 'How surely'],
  ['elsewhere', 'The same elsewhere'],
];
const branches = computed(() =>
  phases
    .map(([phase, title]) => ({ title, arms: props.arms.filter((arm) => arm.phase === phase) }))
    .filter(({ arms }) => arms.length > 0),
);
const said = ({ n, same, other, pending }: SearchArm): string =>
  [n ? `${same} of ${n} failed so` : '', other ? `${other} otherwise` : '', pending ? 'being played' : '']
    .filter(Boolean)
    .join(', ');
</script>

<template>
  <ul class="tree" aria-label="What was tried">
    <li v-for="branch in branches" :key="branch.title">
      <h3>
        {{ branch.title }} <span class="soft">{{ plural(branch.arms.length, 'way') }}</span>
      </h3>
      <ul>
        <li
          v-for="arm in branch.arms"
          :key="arm.words + arm.phase + arm.why"
          :class="{ brings: arm.n > 0 && arm.same * 2 > arm.n }"
        >
          <span class="what">
            {{ arm.words }}
            <small class="soft">{{ arm.why }}</small>
          </span>
          <TrialMarks :trials="arm.trials" />
          <span class="soft count">{{ said(arm) }}</span>
        </li>
      </ul>
    </li>
  </ul>
</template>

<style scoped>
ul {
  list-style: none;
  margin: 0;
  padding: 0;
}
h3 {
  margin: 8px 0 2px;
  font-size: 12.5px;
  font-weight: 600;
}
h3 .soft {
  font-weight: 400;
  margin-left: 6px;
}
.tree > li > ul {
  border-left: 2px solid var(--line);
  padding-left: 10px;
}
.tree > li > ul > li {
  display: grid;
  grid-template-columns: minmax(0, 1fr) 92px 118px;
  gap: 10px;
  padding: 2px 0;
  font-size: 12.5px;
  align-items: baseline;
}
.what small {
  display: block;
  font-size: 11px;
}
.brings .what {
  color: var(--brick);
  font-weight: 600;
}
.brings small {
  font-weight: 400;
}
.count {
  text-align: right;
}
</style>
