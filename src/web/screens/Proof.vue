<script setup lang="ts">
import Button from 'primevue/button';
import { computed } from 'vue';
import { useRoute } from 'vue-router';
import { api } from '../api.ts';
import { useKeys } from '../keys.ts';
import { useLoaded } from '../loaded.ts';
import { useTell } from '../tell.ts';
import ProofFound from '../parts/ProofFound.vue';
import Strip from '../parts/Strip.vue';
import Trouble from '../parts/Trouble.vue';
import type { ProofView } from '../types.ts';

/** The proof of one remedy. */
const id = String(useRoute().params.id);
const tell = useTell();
const {
  shown: proof,
  error,
  load,
} = useLoaded(
  () => api<ProofView>('GET', `/proofs/${id}`),
  (change) => change.type === 'series' && change.id === id,
  200,
);
const running = computed(() => proof.value?.state === 'running' || proof.value?.state === 'waiting');

async function stop(): Promise<void> {
  try {
    proof.value = await api<ProofView>('DELETE', `/proofs/${id}`);
  } catch (problem) {
    tell('The proof could not be stopped', problem);
  }
}
useKeys([{ keys: 'S', does: 'stop' }], (event) => {
  if (event.key.toLowerCase() !== 's' || !running.value) return false;
  void stop();
  return true;
});
</script>

<template>
  <Trouble v-if="error" :error="error" @again="load" />
  <div v-else-if="proof">
    <Strip :title="proof.words" :edge="proof.verdict === 'mends' ? 'none' : 'brick'">
      <template #crumbs>
        <RouterLink to="/drills">Drills</RouterLink> /
        <RouterLink :to="`/drills/${proof.drillId}`">{{ proof.title }}</RouterLink> / proof
      </template>
      <Button v-if="running" label="Stop" size="small" severity="secondary" @click="stop" />
    </Strip>
    <section><ProofFound :proof="proof" /></section>
  </div>
</template>

<style scoped>
section {
  padding: 14px 18px;
  max-width: 900px;
}
</style>
