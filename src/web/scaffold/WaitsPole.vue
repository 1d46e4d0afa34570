<script setup lang="ts">
import { computed } from 'vue';
import { endOf } from '../../core/evidence/event.ts';
import { useBench } from '../stores/bench.ts';
import { duration } from '../words.ts';
import PoleCanvas from './PoleCanvas.vue';
import { px, useRoom } from './room.ts';
import type { Shape } from './shapes.ts';

/** Waits opened up: each try with what it saw; silences of the test as hatched blocks. */
const bench = useBench();
const { scale, column, isEvidence, words, crowded } = useRoom();
const poles = computed(() => (crowded('poll') ? nothing : bench.poles));
const nothing = { pauses: [], polls: [], planks: [], until: 0 };
const left = computed(() => column('wait').left);
/** The marks' own part of the pole: a narrow canvas costs little. */
const marksWidth = 18;
/** Silences of the test as blocks; where two would touch, the later one keeps no block of its own. */
const pauses = computed(() => {
  let free = -Infinity;
  return poles.value.pauses.flatMap((pause) => {
    const top = scale.value.y(pause.at);
    const height = Math.max(14, scale.value.y(endOf(pause)) - top);
    if (top < free) return [];
    free = top + height + 1;
    return [{ pause, top, height }];
  });
});
const polls = computed(() => {
  const blocks = pauses.value;
  let block = 0;
  const list = poles.value.polls;
  const tops = list.map((poll) => scale.value.y(poll.at));
  let free = -Infinity;
  return list.map((poll, i) => {
    const before = list[i - 1];
    const next = list[i + 1];
    const sameAfter = next?.data.wait === poll.data.wait;
    const sameBefore = before?.data.wait === poll.data.wait;
    // The first and last try, and those that saw something new, are worth their words.
    const telling = poll.data.ok || !sameAfter || !sameBefore || next!.data.saw !== poll.data.saw;
    while (block < blocks.length && blocks[block]!.top + blocks[block]!.height < tops[i]! - 5) block++;
    const inBlock = block < blocks.length && blocks[block]!.top < tops[i]! + 12;
    const show = telling && tops[i]! >= free && !inBlock;
    if (show) free = tops[i]! + 14;
    return { poll, top: tops[i]!, show, next: sameAfter ? tops[i + 1]! : undefined };
  });
});
/** How long each wait would have gone on, as a thin line: its foot is the limit. */
const limits = computed(() =>
  poles.value.planks
    .filter((step) => step.kind === 'wait' && step.data.limitMs)
    .map((wait) => {
      const top = scale.value.y(wait.at);
      const foot = scale.value.y(Math.min(bench.poles.until, wait.at + wait.data.limitMs!));
      const used = duration(endOf(wait) - wait.at);
      return {
        id: wait.id,
        top,
        height: Math.max(4, foot - top),
        words: `waited ${used} of at most ${duration(wait.data.limitMs!)}`,
      };
    }),
);
const shown = computed(() => polls.value.filter((poll) => poll.show));
/** Each try a ring, the one that ended the wait a disc, a string from try to try; a foot where the limit was. */
const shapes = computed(() => [
  ...limits.value.map((limit): Shape => ({ ...limit, left: left.value + 1, width: 5, look: 'foot', tone: 'steel' })),
  ...polls.value.flatMap((p): Shape[] => [
    ...(p.next === undefined
      ? []
      : [
          {
            left: left.value + 9,
            top: p.top + 4,
            width: 1,
            height: p.next - p.top,
            look: 'fill' as const,
            tone: 'steel' as const,
          },
        ]),
    {
      left: left.value + 5,
      top: p.top,
      width: 9,
      height: 9,
      look: p.poll.data.ok ? 'disc' : 'ring',
      tone: p.poll.data.ok ? 'sea' : 'steel-deep',
      evidence: isEvidence(p.poll.id),
    },
  ]),
]);
</script>

<template>
  <div>
    <PoleCanvas :shapes="shapes" :left="left" :width="marksWidth" />
    <template v-for="p in words(shown)" :key="p.poll.id">
      <span
        class="saw mono one-line label"
        :class="{ sea: p.poll.data.ok }"
        :style="{ top: px(p.top - 4), left: px(left + 19), width: px(column('wait').width - 25) }"
        :title="p.poll.data.saw"
        >“{{ p.poll.data.saw }}”</span
      >
    </template>
    <span
      v-for="p in words(pauses)"
      :key="p.pause.id"
      class="pause label"
      :style="{ top: px(p.top), height: px(p.height), left: px(left + 5), width: px(column('wait').width - 14) }"
      :title="p.pause.data.label"
      ><span>{{ duration(endOf(p.pause) - p.pause.at) }} sleep</span></span
    >
  </div>
</template>

<style scoped>
.saw {
  position: absolute;
  font-size: 10.5px;
}
.pause {
  position: absolute;
  border: 1px dashed var(--steel);
  font-size: 10.5px;
  color: var(--soft);
  background: repeating-linear-gradient(
    135deg,
    transparent 0 5px,
    color-mix(in srgb, var(--steel) 25%, transparent) 5px 6px
  );
  overflow: hidden;
}
.pause span {
  background: var(--ground);
  padding: 0 3px;
}
</style>
