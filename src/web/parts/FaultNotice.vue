<script setup lang="ts">
import { onBeforeUnmount, onMounted, ref } from 'vue';
import { api } from '../api.ts';

/** How often the server is asked whether anything failed that nobody had caught. */
const everyMs = 30_000;
const faults = ref(0);
let timer: ReturnType<typeof setInterval> | undefined;

async function ask(): Promise<void> {
  try {
    faults.value = (await api<{ faults: number }>('GET', '/health')).faults;
  } catch {
    // That the server does not answer is told where something was asked of it.
  }
}
onMounted(() => {
  void ask();
  timer = setInterval(() => void ask(), everyMs);
});
onBeforeUnmount(() => clearInterval(timer));
</script>

<template>
  <p v-if="faults > 0" class="fault" role="status">
    Something in Iskel failed{{ faults > 1 ? ` (${faults} times)` : '' }}. Recordings go on; what failed is in the
    server’s log, on its standard error.
  </p>
</template>

<style scoped>
.fault {
  /* A line of its own above the keys: none of it may be cut. */
  flex: 0 0 100%;
  order: -1;
  margin: 0;
  color: var(--brick);
  font-weight: 600;
  white-space: normal;
}
</style>
