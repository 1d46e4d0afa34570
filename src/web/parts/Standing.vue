<script setup lang="ts">
import { computed } from 'vue';
import { causeNames } from '../../core/causes/cause.ts';
import type { Verdict } from '../types.ts';

/** What people decided about a family, in a few words. */
const props = defineProps<{ verdict: Verdict }>();
const text = computed(() => {
  const { confirmed, cleared, note } = props.verdict;
  if (confirmed) return `confirmed: ${causeNames[confirmed].toLowerCase()}`;
  if (cleared.length) return `${cleared.length} cleared, awaits a verdict`;
  return note ? 'noted, awaits a verdict' : 'awaits a verdict';
});
</script>

<template>
  <span :class="verdict.confirmed ? 'sea' : 'soft'" :title="verdict.note || undefined"
    >{{ text }}<span v-if="verdict.note" class="note one-line">“{{ verdict.note }}”</span></span
  >
</template>

<style scoped>
.note {
  display: block;
  font-size: 11.5px;
  color: var(--soft);
}
</style>
