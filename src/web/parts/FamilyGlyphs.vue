<script setup lang="ts">
import { computed } from 'vue';
import type { RunFamily } from '../types.ts';
import OutcomeGlyph from './OutcomeGlyph.vue';

/** A family's attempts in one run: a glyph each, or the first few and how many there are. */
const props = defineProps<{ family: RunFamily }>();
const most = 5;
const few = 3;
const shown = computed(() => props.family.attempts.slice(0, props.family.count > most ? few : most));
</script>

<template>
  <span class="glyphs"
    ><OutcomeGlyph v-for="attempt in shown" :key="attempt.id" :outcome="attempt.flaky ? 'flaky' : attempt.outcome" /><b
      v-if="family.count > most"
      :title="`${family.count} failures`"
      >{{ family.count.toLocaleString('en') }}</b
    ></span
  >
</template>

<style scoped>
.glyphs {
  display: flex;
  gap: 4px;
  align-items: center;
  white-space: nowrap;
}
b {
  font-weight: 600;
  margin-left: 2px;
}
</style>
