<script setup lang="ts">
import { computed } from 'vue';
import type { Run } from '../types.ts';

const props = defineProps<{ totals: Run['totals'] }>();
const parts = computed(() => {
  const { tests, passed, flaky, failed, errored, ...rest } = props.totals;
  const other = rest.skipped + rest.interrupted + rest.unreported;
  const share = (count: number) => (tests ? (count / tests) * 100 : 0);
  return [
    { name: 'passed', count: passed, colour: 'var(--sea)' },
    { name: 'flaky', count: flaky, colour: 'var(--amber)' },
    { name: 'failed', count: failed + errored, colour: 'var(--brick)' },
    { name: 'other', count: other, colour: 'var(--steel)' },
  ].map((part) => ({ ...part, width: share(part.count) }));
});
const spoken = computed(() =>
  parts.value
    .filter((part) => part.count)
    .map((part) => `${part.count} ${part.name}`)
    .join(', '),
);
</script>

<template>
  <div class="outcomes" role="img" :aria-label="spoken">
    <i
      v-for="part in parts.filter((p) => p.count)"
      :key="part.name"
      :style="{ width: `${part.width}%`, background: part.colour }"
    />
  </div>
</template>

<style scoped>
.outcomes {
  display: flex;
  gap: 2px;
  height: 10px;
  min-width: 120px;
}
.outcomes i {
  min-width: 4px;
}
</style>
