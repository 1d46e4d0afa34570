<script setup lang="ts">
import type { PageReadiness } from '../types.ts';
import { duration, plural } from '../words.ts';

/** By which signs one page tells that it is ready, the surest first, each as a drill would wait for it. */
defineProps<{ page: PageReadiness }>();
</script>

<template>
  <ul class="signs">
    <li v-for="one in page.signs" :key="`${one.kind} ${one.subject}`">
      <span>{{ one.words }}</span>
      <span class="soft"
        >held in {{ one.held }} of {{ plural(one.of, 'visit') }} of {{ plural(page.tests, 'test') }}, in the middle
        {{ one.lateMs < 1 ? 'at once' : `${duration(one.lateMs)} after the last thing used` }}</span
      >
      <code v-if="one.condition">wait until {{ one.condition }}</code>
    </li>
  </ul>
</template>

<style scoped>
.signs {
  list-style: none;
  margin: 0;
  padding: 0;
  display: grid;
  gap: 8px;
}
li {
  display: grid;
  gap: 2px;
}
.soft {
  font-size: 12px;
}
code {
  font: 12px var(--mono);
  border-left: 3px solid var(--sea);
  padding-left: 8px;
  overflow-wrap: anywhere;
}
</style>
