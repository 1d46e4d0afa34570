<script setup lang="ts">
import { computed } from 'vue';
import { useBench } from '../stores/bench.ts';
import { linesFor, lineText, sourceOf } from './working-list.ts';
import WorkingList from './WorkingList.vue';

/** The console as a list to work with. */
const bench = useBench();
const rows = computed(() => linesFor(bench.consoleLines, { ...bench.listFilter, range: bench.range }, bench.usual));
const levels = ['error', 'warning', 'info', 'debug'].map((value) => ({ value, name: value }));
const sources = computed(() => [...new Set(bench.consoleLines.map(sourceOf).filter(Boolean))].slice(0, 60));
</script>

<template>
  <WorkingList
    name="Console"
    one="line"
    :all="bench.consoleLines.length"
    :rows="rows"
    :only-choices="levels"
    from-name="source"
    :from-choices="sources"
    :text="lineText"
    :whole="`/api/attempts/${bench.attempt!.id}/console`"
    whole-name="All of it as text"
  >
    <template #row="{ event }">
      <span class="level" :class="event.data.level">{{ event.data.level }}</span>
      <span class="one-line"><b v-if="event.data.suppressed">suppressed: </b>{{ event.data.text }}</span>
    </template>
    <template #chosen="{ event }">
      <pre v-if="event && (event.data.stack || event.data.text.length > 60)">{{ lineText(event) }}</pre>
    </template>
  </WorkingList>
</template>

<style scoped>
.level {
  flex: 0 0 52px;
  color: var(--soft);
}
.level.error {
  color: var(--brick-text);
  font-weight: 600;
}
.level.warning {
  color: var(--amber-text);
}
pre {
  margin: 0;
  white-space: pre-wrap;
  overflow-wrap: anywhere;
  max-height: 130px;
  overflow: auto;
  font-size: 11px;
}
</style>
