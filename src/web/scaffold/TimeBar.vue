<script setup lang="ts">
import { computed } from 'vue';
import { useBench } from '../stores/bench.ts';
import { speeds, useMoves } from '../stores/bench-moves.ts';
import type { TimeMode } from '../stores/bench-time.ts';
import { seconds } from '../words.ts';

/** How time is drawn and how the level moves, at the foot of the scaffold. */
const bench = useBench();
const moves = useMoves();
const modes: { mode: TimeMode; name: string; about: string }[] = [
  { mode: 'folded', name: 'Folded', about: 'quiet time is folded, busy time spread' },
  { mode: 'spread', name: 'Unfolded', about: 'quiet time in full, busy time spread' },
  { mode: 'true', name: 'True time', about: 'every millisecond the same height' },
];
const nearness = computed(() => {
  const zoom = bench.time.zoom;
  return zoom >= 1
    ? `${zoom >= 10 ? zoom.toFixed(0) : zoom.toFixed(1)} ×`
    : `1/${(1 / zoom).toFixed(zoom > 0.1 ? 1 : 0)}`;
});
function playOrStop(): void {
  if (bench.time.playing) moves.stop();
  else moves.play(bench.slower);
}
function faster(event: Event): void {
  bench.slower = Number((event.target as HTMLSelectElement).value);
  if (bench.time.playing) moves.play(bench.slower);
}
</script>

<template>
  <div class="time" role="toolbar" aria-label="Time">
    <span class="modes" role="group" aria-label="How time is drawn">
      <button
        v-for="one in modes"
        :key="one.mode"
        :aria-pressed="bench.time.mode === one.mode"
        :title="one.about"
        @click="bench.time.mode = one.mode"
      >
        {{ one.name }}
      </button>
    </span>
    <span class="group">
      <button aria-label="Look from further away" @click="bench.time.zoomBy(1 / 1.5)">−</button>
      <span class="mono near">{{ nearness }}</span>
      <button aria-label="Look from nearer" @click="bench.time.zoomBy(1.5)">+</button>
      <button @click="bench.time.fit(0, bench.poles.until)">Whole</button>
    </span>
    <span class="group">
      <button @click="playOrStop">{{ bench.time.playing ? 'Stop' : 'Play' }}</button>
      <label
        >at
        <select :value="bench.slower" aria-label="Speed of play" @change="faster">
          <option v-for="one in speeds" :key="one" :value="one">1/{{ one }}</option>
        </select></label
      >
    </span>
    <label class="group"><input v-model="bench.snaps" type="checkbox" /> snap</label>
    <span v-if="bench.range" class="group range">
      <span>{{ seconds(bench.range.from) }} to {{ seconds(bench.range.until) }}</span>
      <button @click="bench.time.fit(bench.range.from, bench.range.until)">Fill</button>
      <button @click="bench.range = null">Clear</button>
    </span>
    <span v-else class="soft hint one-line">Shift and drag marks a stretch of time</span>
  </div>
</template>

<style scoped>
.time {
  display: flex;
  align-items: center;
  gap: 14px;
  height: 30px;
  padding: 0 8px;
  border-top: 1px solid var(--line);
  background: var(--paper);
  font-size: 12px;
  overflow: hidden;
  white-space: nowrap;
}
.time button {
  border: 1px solid var(--line);
  background: var(--ground);
  padding: 1px 7px;
  cursor: pointer;
  font-size: 12px;
}
.modes {
  display: flex;
}
.modes button + button {
  border-left: 0;
}
.modes button[aria-pressed='true'] {
  background: var(--ink);
  border-color: var(--ink);
  color: var(--paper);
}
.group {
  display: flex;
  align-items: center;
  gap: 5px;
}
.near {
  min-width: 40px;
  text-align: center;
}
.range span {
  color: var(--sea);
}
.hint {
  min-width: 0;
  flex: 0 1 auto;
}
select {
  font: inherit;
  color: inherit;
  background: var(--ground);
  border: 1px solid var(--line);
}
</style>
