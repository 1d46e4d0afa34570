<script setup lang="ts">
import Button from 'primevue/button';
import ChooseFiles from '../parts/ChooseFiles.vue';
import { useToast } from 'primevue/usetoast';
import { computed, ref } from 'vue';
import { api } from '../api.ts';

/** Arrivals with nothing on it: the ways to get evidence in, each ready to copy. */
const toast = useToast();
const base = location.origin;
const standIn = ref('npm run -s iskel -- browser --print-path');
void api<{ standIn: string }>('GET', '/health').then(
  (health) => (standIn.value = health.standIn),
  () => undefined,
);
const ways = computed(() => [
  {
    title: 'One path to set, for any runner that starts Chromium',
    says: 'Name this program where your runner is told which browser to start. It starts the real one, hands everything through untouched and records beside it; each isolated context becomes an attempt here. ISKEL_RUN and ISKEL_TEST in its environment name them.',
    text: standIn.value,
  },
  {
    title: 'Or one address, for WebDriver tests',
    says: 'Give your tests this WebDriver remote address. Nothing else changes; each session becomes an attempt here.',
    text: `${base}/wd`,
  },
  {
    title: 'Bring what your runner left behind',
    says: 'Drop a report, logs, screenshots, videos or the whole folder on this page, or send them from the machine that ran the tests.',
    text: `curl -F files=@results.xml -F files=@shots.zip -F run=nightly-184 ${base}/api/intake`,
  },
  {
    title: 'Name what is recorded',
    says: 'Add this capability, in any part you like, so that runs, tests and retries are told apart.',
    text: `"iskel:attempt": { "run": "nightly-184", "test": { "suite": "booking/holds", "title": "holds a seat" }, "number": 1 }`,
  },
  {
    title: 'See it with the ferry company’s runs first',
    says: 'Loads recorded runs of a made-up ferry shop, with the shop itself to replay them on.',
    text: 'npm run demo',
  },
]);
async function copy(text: string): Promise<void> {
  await navigator.clipboard.writeText(text);
  toast.add({ severity: 'success', summary: 'Copied', life: 1500 });
}
</script>

<template>
  <section class="first">
    <div>
      <h1>No run has arrived yet</h1>
      <ChooseFiles />
    </div>
    <div v-for="way in ways" :key="way.title" class="way">
      <h2>{{ way.title }}</h2>
      <p class="soft">{{ way.says }}</p>
      <div class="text">
        <pre>{{ way.text }}</pre>
        <Button
          label="Copy"
          size="small"
          severity="secondary"
          variant="outlined"
          :aria-label="`Copy: ${way.title}`"
          @click="copy(way.text)"
        />
      </div>
    </div>
  </section>
</template>

<style scoped>
.first {
  max-width: 860px;
  padding: 28px 18px;
  display: grid;
  gap: 20px;
}
.way h2 {
  color: var(--ink);
  font-size: 14px;
}
.text {
  display: flex;
  gap: 10px;
  align-items: center;
  margin-top: 6px;
  background: var(--paper);
  border: 1px solid var(--line);
  padding: 8px 10px;
}
pre {
  margin: 0;
  flex: 1;
  overflow-x: auto;
}
</style>
