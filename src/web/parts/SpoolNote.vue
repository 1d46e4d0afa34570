<script setup lang="ts">
import { ref } from 'vue';
import { api } from '../api.ts';

interface Waits {
  id: string;
  why: string;
}

/** What `iskel browser` recorded on the server's machine and could not be taken in yet, with the reason. */
const spool = ref<{ folder: string; waiting: Waits[]; setAside: Waits[] }>();
void api<{ spool: typeof spool.value }>('GET', '/health').then(
  (health) => (spool.value = health.spool),
  () => undefined,
);
</script>

<template>
  <section v-if="spool && spool.waiting.length + spool.setAside.length" class="spool amber" role="status">
    <p v-for="one in spool.waiting" :key="one.id">
      A recording waits ({{ one.id }}): {{ one.why }}. It is tried again by itself.
    </p>
    <p v-for="one in spool.setAside" :key="one.id">
      A recording was set aside ({{ one.id }}): {{ one.why }}. It lies in
      <span class="mono">{{ spool.folder }}/set-aside</span>.
    </p>
  </section>
</template>

<style scoped>
.spool {
  margin-bottom: 10px;
  padding: 6px 10px;
  border: 1px solid var(--line);
  background: var(--amber-pale);
  font-size: 12.5px;
}
p {
  margin: 0;
  overflow-wrap: anywhere;
}
</style>
