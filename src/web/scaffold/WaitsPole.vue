<script setup lang="ts">
import { computed } from 'vue';
import { endOf } from '../../core/evidence/event.ts';
import { useBench } from '../stores/bench.ts';
import { duration, seconds } from '../words.ts';
import { px, useRoom } from './room.ts';

/** Waits opened up: each try with what it saw; silences of the test as hatched blocks. */
const bench = useBench();
const { scale, column, inSight, isEvidence } = useRoom();
const left = computed(() => column('wait').left);
const polls = computed(() => {
  const list = bench.poles.polls;
  const tops = list.map((poll) => scale.value.y(poll.at));
  let free = -Infinity;
  return list.map((poll, i) => {
    const before = list[i - 1];
    const next = list[i + 1];
    const sameAfter = next?.data.wait === poll.data.wait;
    const sameBefore = before?.data.wait === poll.data.wait;
    // The first and last try, and those that saw something new, are worth their words.
    const telling = poll.data.ok || !sameAfter || !sameBefore || next!.data.saw !== poll.data.saw;
    const show = telling && tops[i]! >= free;
    if (show) free = tops[i]! + 14;
    return { poll, top: tops[i]!, show, next: sameAfter ? tops[i + 1]! : undefined };
  });
});
/** How long each wait would have gone on, as a thin line: its foot is the limit. */
const limits = computed(() =>
  bench.poles.planks
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
const pauses = computed(() =>
  bench.poles.pauses.map((pause) => {
    const top = scale.value.y(pause.at);
    return { pause, top, height: Math.max(14, scale.value.y(endOf(pause)) - top) };
  }),
);
</script>

<template>
  <div>
    <template v-for="p in inSight(polls)" :key="p.poll.id">
      <i v-if="p.next" class="string" :style="{ top: px(p.top + 4), height: px(p.next - p.top), left: px(left + 9) }" />
      <i
        class="poll"
        :class="{ met: p.poll.data.ok, evidence: isEvidence(p.poll.id) }"
        :style="{ top: px(p.top), left: px(left + 5) }"
        :title="`saw ${p.poll.data.saw} at ${seconds(p.poll.at)}`"
      />
      <span
        v-if="p.show"
        class="saw mono one-line label"
        :class="{ sea: p.poll.data.ok }"
        :style="{ top: px(p.top - 4), left: px(left + 19), width: px(column('wait').width - 25) }"
        :title="p.poll.data.saw"
        >“{{ p.poll.data.saw }}”</span
      >
    </template>
    <i
      v-for="limit in inSight(limits)"
      :key="limit.id"
      class="limit"
      :style="{ top: px(limit.top), height: px(limit.height), left: px(left + 1) }"
      :title="limit.words"
    />
    <span
      v-for="p in inSight(pauses)"
      :key="p.pause.id"
      class="pause label"
      :style="{ top: px(p.top), height: px(p.height), left: px(left + 5), width: px(column('wait').width - 14) }"
      :title="p.pause.data.label"
      ><span>{{ duration(endOf(p.pause) - p.pause.at) }} sleep</span></span
    >
  </div>
</template>

<style scoped>
.string {
  position: absolute;
  width: 1px;
  background: var(--steel);
}
.limit {
  position: absolute;
  width: 3px;
  border: 1px solid var(--steel);
  border-top: 0;
  border-right: 0;
}
.poll {
  position: absolute;
  width: 9px;
  height: 9px;
  border: 1.4px solid var(--steel-deep);
  border-radius: 50%;
  background: var(--ground);
}
.poll.met {
  background: var(--sea);
  border-color: var(--sea);
}
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
