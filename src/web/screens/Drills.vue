<script setup lang="ts">
import Button from 'primevue/button';
import { useRouter } from 'vue-router';
import { api } from '../api.ts';
import { useLoaded } from '../loaded.ts';
import { useTell } from '../tell.ts';
import Trouble from '../parts/Trouble.vue';
import { moment, plural } from '../words.ts';

interface Row {
  id: string;
  title: string;
  createdAt: number;
  attemptId: string | null;
  series: number;
}
const router = useRouter();
const tell = useTell();
const {
  shown: drills,
  error,
  load,
} = useLoaded(
  async () => (await api<{ drills: Row[] }>('GET', '/drills')).drills,
  (change) => change.type === 'drill' || change.type === 'series',
);
async function write(): Promise<void> {
  try {
    const { id } = await api<{ id: string }>('POST', '/drills', {
      text: 'drill "a new drill"\n\nopen "http://127.0.0.1:4871/"\n',
    });
    await router.push(`/drills/${id}`);
  } catch (problem) {
    tell('No drill was made', problem);
  }
}
</script>

<template>
  <Trouble v-if="error" :error="error" @again="load" />
  <div v-else-if="drills" class="drills">
    <div class="head">
      <h1>Drills</h1>
      <Button label="Write one" size="small" @click="write" />
    </div>
    <p v-if="!drills.length" class="soft">
      A drill replays what an attempt did, without the test’s code. Open an attempt on the bench and press D to make one
      from it.
    </p>
    <RouterLink v-for="drill in drills" :key="drill.id" :to="`/drills/${drill.id}`" class="row">
      <strong class="one-line">{{ drill.title }}</strong>
      <span class="soft"
        >{{ drill.attemptId ? 'from an attempt' : 'written by hand' }}, {{ moment(drill.createdAt) }}</span
      >
      <span>{{ drill.series ? `${plural(drill.series, 'series', 'series')} played` : 'not played yet' }}</span>
    </RouterLink>
  </div>
</template>

<style scoped>
.drills {
  padding: 14px 18px;
}
.head {
  display: flex;
  justify-content: space-between;
  margin-bottom: 10px;
}
.row {
  display: grid;
  grid-template-columns: minmax(0, 1fr) 260px 140px;
  gap: 14px;
  background: var(--paper);
  border: 1px solid var(--line);
  border-left: 5px solid var(--timber);
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
