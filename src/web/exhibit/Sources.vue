<script setup lang="ts">
import { computed } from 'vue';
import type { EvidenceFile } from '../../core/records.ts';
import { api } from '../api.ts';
import { useBench } from '../stores/bench.ts';
import { useTell } from '../tell.ts';
import { seconds } from '../words.ts';

/** Where an imported attempt's evidence came from, how each source's clock stands, and what nobody recorded. */
const bench = useBench();
const tell = useTell();
const files = computed(() => bench.attempt?.files ?? []);
const has = (lane: string): boolean => bench.events.some((event) => event.lane === lane);
const missing = computed(() => {
  const out: string[] = [];
  if (!has('step')) out.push('no steps: its report tells none');
  if (!has('network')) out.push('no requests: a HAR of the run would show them');
  if (!has('console')) out.push('no console');
  if (!has('screen')) out.push('no pictures');
  if (!has('element')) out.push('no lifelines');
  return out;
});
const short = (name: string): string => name.split('/').at(-1)!;
const clock = (file: EvidenceFile): string =>
  file.offsetMs === null
    ? ''
    : `${file.kind === 'video' || file.kind === 'picture' ? `at ${seconds(file.offsetMs)}` : `moved by ${Math.round(file.offsetMs)} ms`}, ${file.offsetWithin === null ? 'how exactly is not known' : `± ${Math.round(file.offsetWithin)} ms`}`;

async function nudge(file: EvidenceFile, by: number): Promise<void> {
  try {
    await api('POST', `/files/${file.id}/offset`, { offsetMs: (file.offsetMs ?? 0) + by });
    const level = bench.level;
    await bench.load(bench.attempt!.id);
    bench.level = level;
  } catch (problem) {
    tell('The clock was not moved', problem);
  }
}
</script>

<template>
  <section aria-label="Sources and their clocks" class="sources">
    <h2>Sources and their clocks</h2>
    <ul>
      <li v-for="file in files" :key="file.id">
        <span class="one-line" :title="`${file.name}. ${file.reasons.join('; ')}`"
          ><b>{{ file.kind }}</b> {{ short(file.name) }}</span
        >
        <small class="soft" :title="file.offsetHow"
          >{{ clock(file) }}<template v-if="file.offsetHow">, {{ file.offsetHow }}</template></small
        >
        <span class="nudge" role="group" :aria-label="`Move ${short(file.name)} in time`">
          <button
            v-for="by in [-100, -10, 10, 100]"
            :key="by"
            class="plain sea"
            :aria-label="`${Math.abs(by)} ms ${by < 0 ? 'earlier' : 'later'}`"
            @click="nudge(file, by)"
          >
            {{ by > 0 ? '+' : '−' }}{{ Math.abs(by) }}
          </button>
        </span>
      </li>
    </ul>
    <p v-if="missing.length" class="soft">
      Not recorded: {{ missing.join('; ') }}. Run the test through this Iskel’s /wd to have all of it.
    </p>
  </section>
</template>

<style scoped>
li {
  display: grid;
  grid-template-columns: minmax(0, 1fr) auto;
  gap: 0 10px;
  padding: 3px 0;
  border-bottom: 1px solid var(--line);
}
li small {
  grid-row: 2;
}
.nudge {
  grid-row: 1 / span 2;
  grid-column: 2;
  display: flex;
  gap: 8px;
  align-items: center;
  font-size: 11.5px;
}
.sources p {
  padding-top: 6px;
  font-size: 12px;
}
</style>
