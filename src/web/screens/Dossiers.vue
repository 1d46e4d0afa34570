<script setup lang="ts">
import { api } from '../api.ts';
import { useLoaded } from '../loaded.ts';
import Standing from '../parts/Standing.vue';
import Trouble from '../parts/Trouble.vue';
import type { Family } from '../types.ts';
import { moment } from '../words.ts';

const {
  shown: families,
  error,
  load,
} = useLoaded(
  async () => (await api<{ families: Family[] }>('GET', '/families')).families,
  (change) => change.type === 'family' || change.type === 'attempt',
  1000,
);
</script>

<template>
  <Trouble v-if="error" :error="error" @again="load" />
  <div v-else-if="families" class="dossiers">
    <h1>Dossiers</h1>
    <p v-if="!families.length" class="soft">
      No failure has been recorded yet. Each family of failures gets a dossier of its own: its suspects, its verdict,
      its trials.
    </p>
    <RouterLink v-for="family in families" :key="family.id" :to="`/dossiers/${family.id}`" class="row">
      <strong class="one-line">{{ family.sentence }}</strong>
      <span class="soft">first seen {{ moment(family.firstAt) }}</span>
      <Standing :verdict="family.verdict" />
    </RouterLink>
  </div>
</template>

<style scoped>
.dossiers {
  padding: 14px 18px;
}
h1 {
  margin-bottom: 10px;
}
.row {
  display: grid;
  grid-template-columns: minmax(0, 1fr) 190px 240px;
  gap: 14px;
  background: var(--paper);
  border: 1px solid var(--line);
  border-left: 5px solid var(--brick);
  padding: 9px 14px;
  margin-bottom: 6px;
  color: var(--ink);
}
.row:hover {
  text-decoration: none;
  border-color: var(--timber);
}
strong {
  font-weight: 600;
}
</style>
