<script setup lang="ts">
import { useElementSize } from '@vueuse/core';
import { computed, nextTick, onMounted, provide, ref, shallowRef, watch } from 'vue';
import { countBetween, type StopLane } from '../../core/scaffold/crowd.ts';
import { useBench } from '../stores/bench.ts';
import { useMoves } from '../stores/bench-moves.ts';
import { usePoles } from '../stores/poles.ts';
import { duration, seconds } from '../words.ts';
import Brackets from './Brackets.vue';
import { columnsOf, gutter, neededPoles, type Column } from './columns.ts';
import Densities from './Densities.vue';
import { linesThatFit, pennantTops } from './drawing.ts';
import ElementsPole from './ElementsPole.vue';
import Miniature from './Miniature.vue';
import NetworkPole from './NetworkPole.vue';
import PoleHeads from './PoleHeads.vue';
import { px, scaffoldRoom } from './room.ts';
import ScreenPole from './ScreenPole.vue';
import StepsPole from './StepsPole.vue';
import { consoleItems, noteItems, pageItems, serviceItems } from './text-pole.ts';
import TextPole from './TextPole.vue';
import Ticks from './Ticks.vue';
import TimeBar from './TimeBar.vue';
import WaitsPole from './WaitsPole.vue';
import WindowsPole from './WindowsPole.vue';

/** The scaffold: poles side by side, time down the page, one level line across all of them. */
const bench = useBench();
const moves = useMoves();
const wanted = usePoles();
const view = ref<HTMLElement>();
const { width, height } = useElementSize(view);
/** Where the scaffold is scrolled to, in steps, so that most frames of a scroll draw nothing new. */
const seen = ref(0);
const seenStep = 120;
/** Free room above the first event, so that labels at 0 are not cut. */
const pad = 14;
/** Drawn this far beyond what is in sight. */
const margin = 160;
/** More of one lane in sight than this is drawn as a summary. */
const mostOnPole = 130;

const roomy = computed(() => width.value > 1100);
const needed = computed(() => neededPoles(bench.poles, bench.stops, roomy.value));
const columns = computed(() => columnsOf(Math.max(480, width.value), wanted.plan, needed.value));
const column = (key: Column['key']): Column => columns.value.find((one) => one.key === key) ?? nowhere;
const nowhere: Column = { key: 'step', name: '', left: -4000, width: 200 };
const stands = (key: Column['key']): boolean => columns.value.some((one) => one.key === key);

const scale = computed(() => {
  const inner = bench.time.scale;
  return {
    ...inner,
    folds: inner.folds.map((fold) => ({ ...fold, top: fold.top + pad })),
    y: (at: number) => inner.y(at) + pad,
    at: (y: number) => inner.at(y - pad),
    height: inner.height + pad,
  };
});
const sight = computed(() => {
  // Always as tall, so that no canvas changes its size.
  const from = Math.max(0, seen.value - margin);
  return { from, height: height.value + seenStep + 2 * margin };
});
const inSight = <T extends { top: number; height?: number }>(list: readonly T[]): T[] => {
  const { from, height: tall } = sight.value;
  const until = from + tall;
  return list.filter((item) => item.top <= until && item.top + (item.height ?? 40) >= from);
};
const words = <T extends { top: number; height?: number }>(list: readonly T[]): T[] =>
  bench.time.hurried ? [] : inSight(list);
const isEvidence = (id: string): boolean => bench.evidence.has(id);
const times = computed(() => ({
  from: scale.value.at(sight.value.from),
  until: scale.value.at(sight.value.from + sight.value.height),
}));
const crowds = computed(() => {
  const { from, until } = times.value;
  const unseen = !bench.known(from, until) && bench.crowded(from, until);
  const list = new Map<StopLane, number>();
  for (const [lane, starts] of Object.entries(bench.stops) as [StopLane, readonly number[]][]) {
    const count = countBetween(starts, from, until);
    if (count > mostOnPole || (unseen && count > 0 && lane !== 'screen')) list.set(lane, count);
  }
  return list;
});
const crowded = (lane: StopLane): boolean => crowds.value.has(lane);
provide(scaffoldRoom, { scale, column, inSight, words, sight, isEvidence, crowded });
// While one looks nearer or further in one go nothing is fetched: what arrives would be out of sight again.
watch([times, () => bench.time.hurried], ([{ from, until }, hurried]) => void (hurried || bench.see(from, until)), {
  immediate: true,
});

const hiddenLines = computed(() => Math.max(0, bench.poles.lifelines.length - linesThatFit(column('element'))));
const remarks = computed(() => {
  const out: Partial<Record<Column['key'], string>> = {};
  if (hiddenLines.value) out.element = `+${hiddenLines.value} more`;
  for (const [lane, count] of crowds.value) out[lane === 'poll' ? 'wait' : lane] = `${count} as bars`;
  return out;
});
const logs = computed(() => bench.poles.console.filter((line) => line.kind === 'line' || !stands('exception')));
const texts = computed(() =>
  (
    [
      ['console', () => consoleItems(logs.value)],
      ['exception', () => consoleItems(bench.poles.console.filter((line) => line.kind === 'exception'))],
      ['page', () => pageItems(bench.poles.page, bench.poles.planks)],
      ['note', () => noteItems(bench.poles.notes)],
      ['service', () => serviceItems(bench.poles.services)],
    ] as const
  ).flatMap(([pole, items]) => (stands(pole) ? [{ pole, items: crowded(pole) ? none : items() }] : [])),
);
/** A pole drawn as bars stays in place, empty: making it anew would cost a frame. */
const none: never[] = [];
/** The torn edge of a fold. */
function foldPath(across: number): string {
  const places = Array.from({ length: Math.ceil(across / 60) + 1 }, (_, i) => i);
  const upper = places.map((i) => `${i * 60},${i % 2 ? 14 : 4}`);
  const lower = places.toReversed().map((i) => `${i * 60},${i % 2 ? 36 : 26}`);
  return [...upper, ...lower].join(' ');
}
const torn = computed(() => foldPath(width.value));
const pennants = computed(() => {
  const tops = pennantTops(
    bench.loud.map((clue) => clue.at),
    scale.value,
  );
  return bench.loud.map((clue, i) => ({ clue, i, top: tops[i]! - 9 }));
});
const levelTop = computed(() => scale.value.y(bench.level));
const band = computed(() => {
  if (!bench.range) return undefined;
  const top = scale.value.y(bench.range.from);
  return { top, height: Math.max(2, scale.value.y(bench.range.until) - top) };
});

/** A press this near to something recorded takes its time. */
const snapPx = 6;
const drag = shallowRef<{ from: number; brush: boolean }>();
function timeAt(event: PointerEvent): number {
  const box = view.value!.getBoundingClientRect();
  const y = event.clientY - box.top + view.value!.scrollTop;
  const at = Math.max(0, Math.min(bench.poles.until, scale.value.at(y)));
  if (!bench.snaps || event.altKey) return at;
  return moves.near(at, Math.abs(scale.value.at(y + snapPx) - scale.value.at(y - snapPx)) / 2);
}
function pointerDown(event: PointerEvent): void {
  if (event.button !== 0 || (event.target as HTMLElement).closest('button')) return;
  moves.stop();
  const at = timeAt(event);
  drag.value = { from: at, brush: event.shiftKey };
  if (event.shiftKey) {
    bench.range = null;
    event.preventDefault();
  } else bench.level = at;
}
function pointerMove(event: PointerEvent): void {
  if (event.buttons !== 1 || !drag.value) return;
  const at = timeAt(event);
  if (!drag.value.brush) bench.level = at;
  else if (Math.abs(at - drag.value.from) > 0.01)
    bench.range = { from: Math.min(at, drag.value.from), until: Math.max(at, drag.value.from) };
}
function wheel(event: WheelEvent): void {
  if (!event.ctrlKey) return;
  event.preventDefault();
  bench.time.zoomBy(event.deltaY < 0 ? 1.15 : 1 / 1.15);
}
/** Where the view is scrolled to. Asking the view itself, between two changes, would make the page lay itself out at once. */
let scrollTop = 0;
function scrolled(): void {
  scrollTop = view.value!.scrollTop;
  settle();
}
const within = (top: number): number => Math.max(0, Math.min(top, scale.value.height + 60 - height.value));
function scrollTo(top: number): void {
  scrollTop = within(top);
  view.value!.scrollTop = scrollTop;
  settle();
}
function settle(): void {
  const now = Math.floor(scrollTop / seenStep) * seenStep;
  if (now !== seen.value) seen.value = now;
  mini.value?.place(scrollTop);
}
const mini = ref<InstanceType<typeof Miniature>>();
watch([scale, height, mini], () => mini.value?.place(scrollTop), { flush: 'post' });

function reveal(): void {
  // What is moved by hand is in sight already, and must not slip away under the pointer.
  if (!view.value || height.value === 0 || drag.value) return;
  const y = levelTop.value - scrollTop;
  if (y >= 60 && y <= height.value - 90) return;
  // A move by a step lets the scaffold slide along with the level; only a leap puts it in the middle.
  const near = y > -height.value / 2 && y < height.value * 1.5;
  const top = levelTop.value - (near ? (y < 60 ? 60 : height.value - 90) : height.value * 0.5);
  // What will be in sight is known before anything is drawn, so that it is drawn once.
  seen.value = Math.floor(within(top) / seenStep) * seenStep;
  void nextTick(() => scrollTo(top));
}
watch(height, (now) => (bench.time.room = now - 70), { immediate: true });
watch(
  () => [bench.level, height.value > 0],
  () => reveal(),
);
// Looking nearer or further keeps the level where it is on the screen.
watch(
  scale,
  (now, before) => {
    if (!view.value || !before || before.height === now.height) return;
    const y = before.y(bench.level) - scrollTop;
    const inside = y >= 0 && y <= height.value;
    // What will be in sight is known before anything is drawn, so that it is drawn once.
    const top = Math.max(0, now.y(bench.level) - (inside ? y : height.value * 0.4));
    seen.value = Math.floor(within(top) / seenStep) * seenStep;
    void nextTick(() => scrollTo(top));
  },
  { flush: 'pre' },
);
onMounted(() => void nextTick(reveal));
const levelWords = computed(() => {
  const step = bench.now.step;
  return `${seconds(bench.shown)}${step ? `, in ${step.data.label}` : ''}`;
});
</script>

<template>
  <div class="scaffold">
    <PoleHeads :columns="columns" :needed="needed" :remarks="remarks" />
    <div
      ref="view"
      class="view"
      tabindex="0"
      role="group"
      aria-label="Scaffold"
      @scroll.passive="scrolled"
      @pointerdown="pointerDown"
      @pointermove="pointerMove"
      @pointerup="drag = undefined"
      @wheel="wheel"
    >
      <Miniature ref="mini" class="mini" :style="{ height: px(height) }" :scale="scale" :room="height" />
      <div class="sheet" :style="{ height: px(scale.height + 60) }">
        <i v-for="one in columns" :key="one.key" class="pole" :style="{ left: px(one.left - 4) }" />
        <div v-if="band" class="band" :style="{ top: px(band.top), height: px(band.height) }" />
        <div
          v-for="fold in inSight(scale.folds)"
          :key="fold.from"
          class="fold"
          :style="{ top: px(fold.top), left: px(gutter.mini + gutter.pennant), height: px(fold.height) }"
        >
          <svg height="40" :width="width" aria-hidden="true">
            <polygon :points="torn" fill="var(--fold)" />
          </svg>
          <span
            v-if="fold.height > 24"
            class="soft"
            :style="{ left: px(column('step').left - gutter.mini - gutter.pennant) }"
            >quiet for {{ duration(fold.until - fold.from) }}, folded</span
          >
        </div>
        <Densities v-if="crowds.size" :columns="columns" :from="sight.from" :height="sight.height" :width="width" />
        <Ticks />
        <StepsPole v-if="stands('step')" />
        <WaitsPole v-if="stands('wait')" />
        <ElementsPole v-if="stands('element')" />
        <NetworkPole v-if="stands('network')" />
        <TextPole v-for="one in texts" :key="one.pole" :pole="one.pole" :items="one.items" />
        <WindowsPole v-if="stands('window')" />
        <ScreenPole v-if="stands('screen') && !crowded('screen')" />
        <Brackets v-if="bench.clue !== null || bench.pointed" :pennants="pennants" :stands="stands" />
        <button
          v-for="p in pennants"
          :key="p.i"
          class="pennant moves"
          :class="{ on: bench.clue === p.i }"
          :style="{ top: px(p.top), left: px(gutter.mini) }"
          :aria-pressed="bench.clue === p.i"
          :aria-label="`Clue ${p.i + 1}: ${p.clue.summary}`"
          :title="p.clue.summary"
          @click="bench.choose(p.i)"
        >
          {{ p.i + 1 }}
        </button>
        <div
          class="level"
          tabindex="0"
          role="slider"
          aria-label="Level: the moment in focus"
          :aria-valuemin="0"
          :aria-valuemax="Math.round(bench.poles.until)"
          :aria-valuenow="Math.round(bench.level)"
          :aria-valuetext="levelWords"
          :style="{ transform: `translateY(${px(levelTop)})` }"
        >
          <span class="mono">{{ seconds(bench.level) }}</span>
        </div>
      </div>
    </div>
    <p v-if="bench.trouble" class="trouble" role="alert">{{ bench.trouble }}</p>
    <TimeBar />
    <p class="spoken" aria-live="polite">{{ bench.time.playing ? '' : levelWords }}</p>
  </div>
</template>

<style scoped>
.scaffold {
  display: grid;
  grid-template: auto minmax(0, 1fr) auto / minmax(0, 1fr);
  min-width: 0;
  min-height: 0;
  border-right: 1px solid var(--line);
}
/* Two rows apart from the heads and the foot: the poles, and over them what went wrong. */
.view {
  grid-row: 2;
  grid-column: 1;
  position: relative;
  overflow: auto;
  overflow-x: hidden;
  outline-offset: -2px;
}
.sheet {
  contain: layout paint style;
  position: absolute;
  inset: 0 0 auto 0;
  min-height: 100%;
  overflow: hidden;
}
.mini {
  position: sticky;
  top: 0;
  left: 0;
  z-index: 4;
}
/* Stands over the foot of the poles, so that nothing moves when it comes. */
.trouble {
  grid-row: 2;
  grid-column: 1;
  align-self: end;
  z-index: 5;
  margin: 0;
  padding: 6px 12px;
  background: var(--brick-pale);
  color: var(--brick-text);
  font-size: 12px;
}
.pole {
  position: absolute;
  top: 0;
  bottom: 0;
  width: 2px;
  background: var(--steel);
  opacity: 0.55;
}
.band {
  position: absolute;
  left: 48px;
  right: 0;
  background: color-mix(in srgb, var(--sea) 9%, transparent);
  border-block: 1px dashed var(--sea);
}
.fold {
  position: absolute;
  right: 0;
  overflow: hidden;
}
.fold span {
  position: absolute;
  top: 11px;
  font-size: 11.5px;
  background: var(--fold);
  padding-right: 6px;
}
.sheet :deep(.evidence) {
  outline: 1.5px solid var(--ink);
  outline-offset: 1px;
  z-index: 2;
}
.pennant {
  position: absolute;
  width: 22px;
  height: 18px;
  border: 0;
  padding: 0 5px 0 0;
  background: var(--brick);
  color: var(--paper);
  font: 600 11px var(--sans);
  clip-path: polygon(0 0, 100% 0, 76% 50%, 100% 100%, 0 100%);
  cursor: pointer;
  z-index: 3;
}
.pennant.on {
  background: var(--ink);
}
.pennant:focus-visible {
  outline-offset: -3px;
  outline-color: var(--paper);
}
.level {
  position: absolute;
  top: 0;
  will-change: transform;
  left: 24px;
  right: 0;
  height: 0;
  border-top: 1.6px solid var(--ink);
  pointer-events: none;
  z-index: 3;
}
.level span {
  position: absolute;
  right: 4px;
  top: -10px;
  background: var(--ink);
  color: var(--paper);
  padding: 1px 8px;
  border-radius: 3px;
  font-size: 11px;
}
</style>
