<script setup lang="ts">
import { ref, watch } from 'vue';
import { riskNames } from '../../core/risks/words.ts';
import { api } from '../api.ts';
import { useBench } from '../stores/bench.ts';
import type { Risk } from '../types.ts';

/** What of an attempt that passed held by luck: the next time it may not. */
const bench = useBench();
const risks = ref<Risk[]>([]);
/** So many are shown at once, the plainest. */
const few = 4;
const all = ref(false);
watch(
  () => [bench.attempt?.id, bench.attempt?.state] as const,
  async ([id, state]) => {
    if (!id || state !== 'ready') return;
    const told = await api<{ risks: Risk[] }>('GET', `/attempts/${id}/risks`).catch(() => ({ risks: [] }));
    if (bench.attempt?.id === id) risks.value = told.risks;
  },
  { immediate: true },
);
const show = ({ evidence, at }: Risk): void => bench.point(evidence[0] ?? '', at);
</script>

<template>
  <section v-if="risks.length" aria-label="What may not hold the next time">
    <h2>
      What may not hold the next time
      <RouterLink :to="`/tests/${bench.attempt?.test.id}`" class="soft">the test</RouterLink>
    </h2>
    <ul>
      <li v-for="one in all ? risks : risks.slice(0, few)" :key="`${one.kind} ${one.key}`">
        <button class="plain" @click="show(one)">
          <b>{{ riskNames[one.kind] }}</b> {{ one.summary }}.
        </button>
        <p class="change">{{ one.change }}.</p>
      </li>
    </ul>
    <button v-if="risks.length > few" class="plain link" @click="all = !all">
      {{ all ? 'Fewer' : `${risks.length - few} more` }}
    </button>
  </section>
</template>

<style scoped>
h2 {
  display: flex;
  justify-content: space-between;
}
h2 a {
  font-weight: 400;
  font-size: 12px;
  text-decoration: underline;
}
ul {
  list-style: none;
  margin: 0;
  padding: 0;
  display: grid;
  gap: 8px;
}
b {
  font-weight: 600;
  color: var(--amber-text);
}
.change {
  border-left: 3px solid var(--sea);
  padding-left: 8px;
}
.link {
  text-decoration: underline;
}
</style>
