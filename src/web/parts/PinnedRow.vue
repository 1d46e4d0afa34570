<script setup lang="ts">
import { computed } from 'vue';
import type { Pinned } from '../../core/families/hypotheses.ts';
import type { SeriesView } from '../types.ts';
import { percent, seconds } from '../words.ts';

/** One thing that somebody pinned, with the way to where it is seen. */
const props = defineProps<{ pinned: Pinned; series?: readonly SeriesView[] }>();
const emit = defineEmits<{ unpin: [] }>();
const trials = computed(() => props.series?.find(({ id }) => id === props.pinned.series));
const place = computed(() => {
  const { attempt, moment, event } = props.pinned;
  if (trials.value) return `/drills/${trials.value.drillId}?series=${trials.value.id}`;
  if (!attempt) return undefined;
  const at = moment === undefined ? '' : `?at=${moment.toFixed(1)}${event ? `&show=${encodeURIComponent(event)}` : ''}`;
  return `/attempts/${attempt}${at}`;
});
const words = computed(() => {
  const { text, what, moment, series } = props.pinned;
  if (text) return text;
  if (what) return what;
  if (series) return 'trials';
  return moment === undefined ? 'this attempt' : `at ${seconds(moment)}`;
});
const more = computed(() => {
  const { text, what, moment } = props.pinned;
  const one = trials.value;
  if (one) return `${one.failed} of ${one.done} failed so, ${percent(one.rate.low)} to ${percent(one.rate.high)}`;
  return [text ? what : '', moment === undefined ? '' : seconds(moment)].filter(Boolean).join(' · ');
});
</script>

<template>
  <p class="pinned">
    <RouterLink v-if="place" :to="place">{{ words }}</RouterLink>
    <span v-else>{{ words }}</span>
    <span v-if="more" class="soft">{{ more }}</span>
    <button type="button" class="plain sea" :aria-label="`Take off: ${words}`" @click="emit('unpin')">take off</button>
  </p>
</template>

<style scoped>
.pinned {
  font-size: 12px;
  line-height: 1.35;
  overflow-wrap: anywhere;
}
.pinned > * {
  margin-right: 8px;
}
.pinned button {
  font-size: 11.5px;
}
</style>
