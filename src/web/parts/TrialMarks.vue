<script setup lang="ts">
import type { Verdict } from '../../core/trials/tally.ts';

/** Trials as marks: filled where the failure came, crossed out where another did, dashed where nothing is known. */
defineProps<{ trials: readonly { number: number; attemptId: string | null; verdict: Verdict }[] }>();

const words: Record<Verdict, string> = {
  same: 'the same failure',
  passed: 'passed',
  other: 'another failure',
  lost: 'lost',
  pending: 'being played',
};
</script>

<template>
  <span class="marks">
    <component
      :is="trial.attemptId ? 'RouterLink' : 'span'"
      v-for="trial in trials"
      :key="trial.number"
      :to="trial.attemptId ? `/attempts/${trial.attemptId}` : undefined"
      :class="['mark', trial.verdict]"
      :title="`trial ${trial.number}: ${words[trial.verdict]}`"
      :aria-label="`trial ${trial.number}, ${words[trial.verdict]}`"
    />
  </span>
</template>

<style scoped>
.marks {
  display: flex;
  flex-wrap: wrap;
  gap: 3px;
}
.mark {
  width: 11px;
  height: 11px;
  display: block;
  border: 1.5px solid var(--sea);
}
.mark.same {
  background: var(--brick);
  border-color: var(--brick);
}
.mark.other {
  border-color: var(--brick);
}
.mark.lost,
.mark.pending {
  border-color: var(--line);
  border-style: dashed;
}
</style>
