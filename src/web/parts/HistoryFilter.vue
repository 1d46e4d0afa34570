<script setup lang="ts">
import type { HistoryAsked } from '../types.ts';

/** Over how long, by what, and of which branch, suite and environment a history is told. */
const asked = defineModel<HistoryAsked>({ required: true });
defineProps<{ branches: string[]; suites?: string[]; environments: string[] }>();
const spans = [7, 30, 90, 365] as const;
</script>

<template>
  <div class="narrowed">
    <span class="soft">the last</span>
    <button
      v-for="days in spans"
      :key="days"
      type="button"
      class="plain"
      :class="{ on: asked.days === days }"
      :aria-pressed="asked.days === days"
      @click="asked.days = days"
    >
      {{ days }} days
    </button>
    <span class="soft">by</span>
    <button
      v-for="per in ['day', 'commit'] as const"
      :key="per"
      type="button"
      class="plain"
      :class="{ on: asked.per === per }"
      :aria-pressed="asked.per === per"
      @click="asked.per = per"
    >
      {{ per }}
    </button>
    <template
      v-for="[name, list] in [
        ['branch', branches],
        ['suite', suites ?? []],
        ['environment', environments],
      ] as const"
      :key="name"
    >
      <select v-if="list.length > 1 || asked[name]" v-model="asked[name]" :aria-label="name">
        <option value="">every {{ name }}</option>
        <option v-for="one in list" :key="one" :value="one">{{ one || 'no suite' }}</option>
      </select>
    </template>
  </div>
</template>
