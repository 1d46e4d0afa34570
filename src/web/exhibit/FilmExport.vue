<script setup lang="ts">
import { computed } from 'vue';
import { useBench } from '../stores/bench.ts';
import { plural } from '../words.ts';

/** The whole session as a film with its steps as captions, for those who have no Iskel. */
const bench = useBench();
const pictures = computed(() => bench.stops.screen?.length ?? 0);
const base = computed(() => `/api/attempts/${bench.attempt!.id}`);
</script>

<template>
  <section aria-label="Hand over">
    <h2>Hand over</h2>
    <p>
      <RouterLink :to="`/attempts/${bench.attempt!.id}/hand-over`">One page for a developer</RouterLink>, or its text
      for a tracker
    </p>
    <p v-if="pictures">
      <a :href="`${base}/film`" download>Film of the session</a> (WebM from {{ plural(pictures, 'picture') }}),
      <a :href="`${base}/film.vtt`" download>its steps as captions</a> (WebVTT)
    </p>
    <p>
      <a :href="`${base}/console`" download>Console text</a>, <a :href="`${base}/har`" download>requests</a> (HAR),
      <a :href="`${base}/pack`" download>everything</a> (evidence pack)
    </p>
  </section>
</template>

<style scoped>
p {
  font-size: 12.5px;
}
/* Links amid other words are told by more than their colour. */
p a {
  text-decoration: underline;
  text-underline-offset: 3px;
}
</style>
