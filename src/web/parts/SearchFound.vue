<script setup lang="ts">
import Button from 'primevue/button';
import { computed } from 'vue';
import type { SeriesView } from '../types.ts';
import DoseCurve from './DoseCurve.vue';
import SearchTree from './SearchTree.vue';

/** What a search has found and ruled out, and how it came to that. */
const props = defineProps<{ series: SeriesView; busy: boolean }>();
const emit = defineEmits<{ play: [stressors: object[]] }>();
const running = computed(() => props.series.state === 'running' || props.series.state === 'waiting');
const share = computed(() => {
  const { search, done } = props.series;
  return search ? Math.min(1, done / search.budget.trials) : 0;
});
</script>

<template>
  <div v-if="series.search" class="found">
    <p class="soft" role="status">
      <template v-if="running">
        Trial {{ series.done + 1 }} of at most {{ series.search.budget.trials }}, for at most
        {{ series.search.budget.minutes }} minutes; {{ series.search.planned }} ways are known. What ran is kept when it
        is stopped.
        <progress :value="share" max="1" aria-label="Trials played" />
      </template>
      <template v-else-if="series.search.ended"
        >It ended after {{ series.done }} trials: {{ series.search.ended }}.</template
      >
    </p>
    <article v-for="(finding, i) in series.findings" :key="finding.words" :class="{ first: i === 0 }">
      <p class="words">{{ finding.words }}</p>
      <DoseCurve v-if="i === 0" :finding="finding" :arms="series.search.arms" />
      <Button
        v-if="!running"
        label="Play 20 trials so"
        size="small"
        severity="secondary"
        :disabled="busy"
        @click="emit('play', finding.stressors)"
      />
    </article>
    <p v-if="!series.findings.length && !running" class="words">
      Nothing that was tried brings this failure on demand.
    </p>
    <details v-if="series.ruledOut.length" :open="!series.findings.length && !running">
      <summary>What else was tried</summary>
      <ul>
        <li v-for="line in series.ruledOut" :key="line">{{ line }}</li>
      </ul>
    </details>
    <SearchTree :arms="series.search.arms" />
  </div>
</template>

<style scoped>
.found {
  display: grid;
  gap: 8px;
}
p {
  margin: 0;
}
progress {
  display: block;
  width: 100%;
  max-width: 460px;
  height: 8px;
  accent-color: var(--sea);
}
article {
  border-left: 4px solid var(--line);
  padding: 4px 10px;
  display: grid;
  gap: 6px;
  justify-items: start;
}
article.first {
  border-left-color: var(--brick);
  background: var(--paper);
}
.words {
  font-size: 14px;
  font-weight: 600;
}
summary {
  cursor: pointer;
  font-size: 12.5px;
}
details ul {
  margin: 4px 0;
  padding-left: 18px;
  font-size: 12.5px;
}
</style>
