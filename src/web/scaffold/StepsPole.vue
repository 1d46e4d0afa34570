<script setup lang="ts">
import { computed } from 'vue';
import { endOf, type StepEvent } from '../../core/evidence/event.ts';
import { shorten } from '../../core/evidence/labels.ts';
import { locatorText } from '../../core/evidence/locator.ts';
import { useBench } from '../stores/bench.ts';
import { duration } from '../words.ts';
import PoleCanvas from './PoleCanvas.vue';
import { px, useRoom } from './room.ts';
import type { Shape } from './shapes.ts';

/** The planks: what the test did, each at its time, with a thin bar as long as it took. */
const bench = useBench();
const { scale, column, words, isEvidence, crowded } = useRoom();
const planks = computed(() =>
  (crowded('step') ? [] : bench.poles.planks).map((step) => {
    const failed = step.id === bench.attempt?.failure?.step;
    const kind = failed ? 'failed' : step.kind === 'wait' ? 'wait' : step.data.action === 'read' ? 'read' : 'act';
    const queued = Number(step.data.queuedMs) || 0;
    const run = scale.value.y(step.at + queued);
    return {
      step,
      kind,
      top: scale.value.y(step.at),
      run,
      queued,
      end: scale.value.y(endOf(step)),
      height: 34,
      inset: Math.min(4, bench.poles.depth.get(step.id) ?? 0) * 9,
    };
  }),
);
/** Planks give way as labels do: seen from afar, those that would lie on others keep only their bar. */
const laid = computed(() => {
  let free = -Infinity;
  return planks.value.map((plank) => {
    const show = plank.kind === 'failed' || plank.top >= free - 0.5;
    if (show) free = plank.top + plank.height;
    return { ...plank, show };
  });
});
/** A failed plank is always shown; one right above it that it would cover gives way. */
const shown = computed(() => {
  const failed = laid.value.find((plank) => plank.kind === 'failed');
  if (!failed) return laid.value;
  return laid.value.map((plank) =>
    plank !== failed && plank.show && Math.abs(plank.top - failed.top) < 34 ? { ...plank, show: false } : plank,
  );
});
const planksShown = computed(() => shown.value.filter((plank) => plank.show));
/** How long each step ran, beside it; hollow while it was queued. */
const shapes = computed(() =>
  planks.value.flatMap((p): Shape[] => {
    const left = column('step').left - 6;
    const tone = p.kind === 'failed' ? 'brick' : p.kind === 'act' ? 'timber' : 'sea';
    return [
      { left, top: p.run, width: 4, height: Math.max(3, p.end - p.run), look: 'fill', tone },
      ...(p.queued
        ? [{ left, top: p.top, width: 4, height: Math.max(3, p.run - p.top), look: 'hollow', tone } as Shape]
        : []),
    ];
  }),
);
/** Planks without their words, while one looks nearer or further in one go. */
const boards = computed((): Shape[] =>
  bench.time.hurried
    ? planksShown.value.map((p) => ({
        left: column('step').left + 2 + p.inset,
        top: p.top,
        width: column('step').width - 10 - p.inset,
        height: 34,
        look: 'fill',
        tone: p.kind === 'failed' ? 'brick-pale' : p.kind === 'act' ? 'timber-pale' : 'sea-pale',
      }))
    : [],
);
function under({ kind, data, ...step }: StepEvent): string {
  if (kind === 'wait')
    return `${data.polls} tries in ${duration(endOf(step) - step.at)}, saw ${shorten(String(data.result ?? ''), 18) || 'nothing'}`;
  if (data.error) return data.error.code;
  if (data.locator) return locatorText(data.locator);
  return data.action === 'open' ? (data.input ?? '') : data.command;
}
</script>

<template>
  <div>
    <p
      v-if="!bench.poles.planks.length"
      class="none soft"
      :style="{ left: px(column('step').left + 6), width: px(column('step').width - 18) }"
    >
      No steps were recorded. Tests that use the address ending in /wd are recorded step by step.
    </p>
    <PoleCanvas :shapes="[...shapes, ...boards]" :left="column('step').left - 8" :width="column('step').width" />
    <template v-for="p in words(planksShown)" :key="p.step.id">
      <div
        class="plank label"
        :class="[p.kind, { evidence: isEvidence(p.step.id) }]"
        :style="{
          top: px(p.top),
          left: px(column('step').left + 2 + p.inset),
          width: px(column('step').width - 10 - p.inset),
        }"
        :title="`${p.step.data.label}\n${under(p.step)}`"
        @click="bench.level = p.step.at"
      >
        <b class="one-line">{{ p.step.data.label }}</b>
        <small class="mono one-line">{{ under(p.step) }}</small>
      </div>
    </template>
  </div>
</template>

<style scoped>
.plank {
  position: absolute;
  height: 34px;
  padding: 1px 8px 0;
  border-left: 4px solid var(--timber);
  background: var(--timber-pale);
  line-height: 1.25;
  cursor: pointer;
  z-index: 1;
  overflow: hidden;
}
.plank b {
  display: block;
  font-weight: 600;
  font-size: 12px;
}
.plank small {
  display: block;
  font-size: 10.5px;
  color: var(--timber-text);
}
.plank.wait,
.plank.read {
  border-left-color: var(--sea);
  background: var(--sea-pale);
}
.plank.wait small,
.plank.read small {
  color: var(--sea);
}
.plank.failed {
  border-left-color: var(--brick);
  background: var(--brick-pale);
}
.plank.failed small {
  color: var(--brick-text);
}
.none {
  position: absolute;
  top: 64px;
}
</style>
