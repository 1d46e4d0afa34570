<script setup lang="ts">
import { useElementSize } from '@vueuse/core';
import { computed, nextTick, onMounted, provide, ref, watch } from 'vue';
import { useBench } from '../stores/bench.ts';
import { duration, seconds } from '../words.ts';
import { columnsOf, gutter, type Column } from './columns.ts';
import ConsolePole from './ConsolePole.vue';
import { linesThatFit, pennantTops } from './drawing.ts';
import ElementsPole from './ElementsPole.vue';
import Miniature from './Miniature.vue';
import NetworkPole from './NetworkPole.vue';
import { px, scaffoldRoom } from './room.ts';
import ScreenPole from './ScreenPole.vue';
import StepsPole from './StepsPole.vue';
import WaitsPole from './WaitsPole.vue';

/** The scaffold: poles side by side, time down the page, one level line across all of them. */
const bench = useBench();
const view = ref<HTMLElement>();
const { width, height } = useElementSize(view);
const scrollTop = ref(0);
/** Free room above the first event, so that labels at 0 are not cut. */
const pad = 14;
/** Drawn this far beyond what is in sight. */
const margin = 300;

const columns = computed(() => columnsOf(Math.max(480, width.value)));
const column = (key: Column['key']): Column => columns.value.find((one) => one.key === key)!;
const scale = computed(() => {
  const inner = bench.scale;
  return {
    ...inner,
    y: (at: number) => inner.y(at) + pad,
    at: (y: number) => inner.at(y - pad),
    height: inner.height + pad,
  };
});
const inSight = <T extends { top: number; height?: number }>(list: readonly T[]): T[] => {
  const from = scrollTop.value - margin;
  const until = scrollTop.value + height.value + margin;
  return list.filter((item) => item.top <= until && item.top + (item.height ?? 40) >= from);
};
const isEvidence = (id: string): boolean => bench.evidence.has(id);
provide(scaffoldRoom, { scale, column, inSight, isEvidence });

const hiddenLines = computed(() => Math.max(0, bench.poles.lifelines.length - linesThatFit(column('element'))));
const ticks = computed(() => {
  const list: { at: number; top: number }[] = [];
  let free = -Infinity;
  const marks = [...bench.poles.planks, ...bench.poles.network].map((event) => event.at).sort((a, b) => a - b);
  for (const at of marks) {
    const top = scale.value.y(at);
    if (top < free) continue;
    free = top + 30;
    list.push({ at, top });
  }
  return list;
});
const folds = computed(() => scale.value.folds.map((fold) => ({ ...fold, top: fold.top + pad })));
/** The torn edge of a fold. */
function foldPath(across: number): string {
  const places = Array.from({ length: Math.ceil(across / 60) + 1 }, (_, i) => i);
  const upper = places.map((i) => `${i * 60},${i % 2 ? 14 : 4}`);
  const lower = places.toReversed().map((i) => `${i * 60},${i % 2 ? 36 : 26}`);
  return [...upper, ...lower].join(' ');
}
const pennants = computed(() => {
  const tops = pennantTops(
    bench.loud.map((clue) => clue.at),
    scale.value,
  );
  return bench.loud.map((clue, i) => ({ clue, i, top: tops[i]! - 9 }));
});
const levelTop = computed(() => scale.value.y(bench.level));

/** Brackets from the chosen pennant to where its evidence stands. */
const brackets = computed(() => {
  const chosen = bench.clue === null ? undefined : pennants.value[bench.clue];
  if (!chosen) return [];
  const left = (key: Column['key'], more = 0): number => column(key).left + more;
  const x: Record<string, number> = {
    step: left('step'),
    note: left('step'),
    poll: left('wait'),
    element: left('element', 6),
    network: left('network', 6),
    console: left('console'),
    screen: left('screen'),
  };
  const turn = gutter.mini + gutter.pennant + 6;
  return [...bench.evidence].flatMap((id) => {
    const event = bench.byId.get(id);
    const end = event && x[event.lane];
    if (!event || end === undefined) return [];
    const top = scale.value.y(event.at) + (event.lane === 'step' ? 17 : 3);
    return [{ id, left: end, top, path: `M ${gutter.mini + 22} ${chosen.top + 9} H ${turn} V ${top} H ${end}` }];
  });
});

function pointerLevel(event: PointerEvent): void {
  if (event.buttons !== 1 || (event.target as HTMLElement).closest('button')) return;
  const box = view.value!.getBoundingClientRect();
  const at = scale.value.at(event.clientY - box.top + view.value!.scrollTop);
  bench.level = Math.max(0, Math.min(bench.poles.until, at));
}
function reveal(): void {
  const el = view.value;
  if (!el || height.value === 0) return;
  const top = levelTop.value;
  const outside = top < el.scrollTop + 60 || top > el.scrollTop + height.value - 90;
  if (outside) el.scrollTop = Math.max(0, top - height.value * 0.55);
}
watch(height, (now) => (bench.room = now - 70), { immediate: true });
watch(
  () => [bench.level, bench.folded, height.value > 0],
  () => void nextTick(reveal),
);
onMounted(() => void nextTick(reveal));
const levelWords = computed(() => {
  const step = bench.now.step;
  return `${seconds(bench.level)}${step ? `, in ${step.data.label}` : ''}`;
});
</script>

<template>
  <div class="scaffold">
    <div class="heads" aria-hidden="true">
      <span v-for="one in columns" :key="one.key" :style="{ left: px(one.left), width: px(one.width) }"
        >{{ one.name
        }}<small v-if="one.key === 'element' && hiddenLines" class="soft"> +{{ hiddenLines }} more</small></span
      >
    </div>
    <div
      ref="view"
      class="view"
      tabindex="0"
      role="group"
      aria-label="Scaffold"
      @scroll="scrollTop = view!.scrollTop"
      @pointerdown="pointerLevel"
      @pointermove="pointerLevel"
    >
      <Miniature
        class="mini"
        :style="{ top: px(scrollTop), height: px(height) }"
        :from="scale.at(scrollTop)"
        :until="scale.at(scrollTop + height)"
      />
      <div class="sheet" :style="{ height: px(scale.height + 60) }">
        <i v-for="one in columns" :key="one.key" class="pole" :style="{ left: px(one.left - 4) }" />
        <div
          v-for="fold in inSight(folds)"
          :key="fold.from"
          class="fold"
          :style="{ top: px(fold.top), left: px(gutter.mini + gutter.pennant) }"
        >
          <svg height="40" :width="width" aria-hidden="true">
            <polygon :points="foldPath(width)" fill="var(--fold)" />
          </svg>
          <span class="soft" :style="{ left: px(column('step').left - gutter.mini - gutter.pennant) }"
            >quiet for {{ duration(fold.until - fold.from) }}, folded</span
          >
        </div>
        <span
          v-for="tick in inSight(ticks)"
          :key="tick.at"
          class="tick mono"
          :style="{ top: px(tick.top), left: px(gutter.mini + gutter.pennant), width: px(gutter.time - 8) }"
          >{{ (tick.at / 1000).toFixed(2) }} s</span
        >
        <StepsPole />
        <WaitsPole />
        <ElementsPole />
        <NetworkPole />
        <ConsolePole />
        <ScreenPole />
        <svg v-if="brackets.length" class="brackets" :height="scale.height + 60" :width="width" aria-hidden="true">
          <path v-for="b in brackets" :key="b.id" :d="b.path" />
          <circle v-for="b in brackets" :key="`c${b.id}`" :cx="b.left" :cy="b.top" r="3.2" />
        </svg>
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
          :style="{ top: px(levelTop) }"
        >
          <span class="mono">{{ seconds(bench.level) }}</span>
        </div>
      </div>
    </div>
    <p class="spoken" aria-live="polite">{{ levelWords }}</p>
  </div>
</template>

<style scoped>
.scaffold {
  display: grid;
  grid-template-rows: 28px minmax(0, 1fr);
  min-width: 0;
  border-right: 1px solid var(--line);
}
.heads {
  position: relative;
  background: var(--paper);
  border-bottom: 1px solid var(--line);
  overflow: hidden;
}
.heads span {
  position: absolute;
  top: 5px;
  font-weight: 600;
  font-size: 12px;
  color: var(--soft);
  white-space: nowrap;
}
.heads small {
  font-weight: 400;
}
.view {
  position: relative;
  overflow: auto;
  overflow-x: hidden;
  outline-offset: -2px;
}
.sheet {
  position: absolute;
  inset: 0 0 auto 0;
  min-height: 100%;
  overflow: hidden;
}
.mini {
  position: absolute;
  left: 0;
  z-index: 4;
}
.pole {
  position: absolute;
  top: 0;
  bottom: 0;
  width: 2px;
  background: var(--steel);
  opacity: 0.55;
}
.fold {
  position: absolute;
  right: 0;
  height: 40px;
}
.fold span {
  position: absolute;
  top: 11px;
  font-size: 11.5px;
  background: var(--fold);
  padding-right: 6px;
}
.tick {
  position: absolute;
  text-align: right;
  color: var(--soft);
  transform: translateY(-7px);
  font-size: 11px;
  line-height: 14px;
  background: var(--ground);
  z-index: 1;
}
.sheet :deep(.evidence) {
  outline: 1.5px solid var(--ink);
  outline-offset: 1px;
  z-index: 2;
}
.brackets {
  position: absolute;
  inset: 0;
  pointer-events: none;
  z-index: 0;
}
.brackets path {
  fill: none;
  stroke: var(--ink);
  stroke-width: 1.1;
}
.brackets circle {
  fill: var(--ink);
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
  left: 24px;
  right: 0;
  height: 0;
  border-top: 1.6px solid var(--ink);
  pointer-events: none;
  z-index: 0;
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
