<script setup lang="ts">
import { computed } from 'vue';
import { useBench } from '../stores/bench.ts';
import { circumstanceRows } from '../../core/evidence/circumstance-rows.ts';

/** What held for the whole attempt: what the first page found itself in, and how busy the machine was. */
const bench = useBench();
const rows = computed(() =>
  bench.attempt ? circumstanceRows(bench.events, bench.attempt.environment, bench.attempt.startedAt) : [],
);
</script>

<template>
  <details v-if="rows.length" class="circumstances">
    <summary>Circumstances, {{ rows.length }} of them</summary>
    <dl>
      <template v-for="row in rows" :key="row.name">
        <dt>{{ row.name }}</dt>
        <dd :class="{ amber: row.odd }">{{ row.value }}</dd>
      </template>
    </dl>
  </details>
</template>

<style scoped>
summary {
  cursor: pointer;
  color: var(--soft);
  font-size: 12px;
}
dl {
  display: grid;
  grid-template-columns: 110px minmax(0, 1fr);
  gap: 2px 10px;
  margin: 6px 0 0;
  font-size: 12px;
}
dt {
  color: var(--soft);
}
dd {
  margin: 0;
  overflow-wrap: anywhere;
}
</style>
