<script setup lang="ts">
import { useElementSize } from '@vueuse/core';
import { computed, nextTick, onMounted, ref, watch } from 'vue';
import { endOf } from '../../core/evidence/event.ts';
import { locatorText } from '../../core/evidence/locator.ts';
import { shorten } from '../../core/evidence/labels.ts';
import { useBench } from '../stores/bench.ts';
import { duration, seconds } from '../words.ts';
import { columnsOf, gutter, type Column } from './columns.ts';
import { lifelineDrawing, linesThatFit, pennantTops, requestBars } from './drawing.ts';
import Miniature from './Miniature.vue';

const bench = useBench();
const view = ref<HTMLElement>();
const { width, height } = useElementSize(view);
const scrollTop = ref(0);
/** Free room above the first event, so that labels at 0 are not cut. */
const pad = 14;

const columns = computed(() => columnsOf(Math.max(700, width.value)));
const column = (key: Column['key']): Column => columns.value.find((one) => one.key === key)!;
const poles = computed(() => bench.poles);
const scale = computed(() => {
  const inner = bench.scale;
  return {
    ...inner,
    y: (at: number) => inner.y(at) + pad,
    at: (y: number) => inner.at(y - pad),
    height: inner.height + pad,
  };
});
const whole = computed(() => scale.value.height + 60);

const margin = 300;
const inSight = <T extends { top: number; height?: number }>(list: readonly T[]): T[] => {
  const from = scrollTop.value - margin;
  const until = scrollTop.value + height.value + margin;
  return list.filter((item) => item.top <= until && item.top + (item.height ?? 40) >= from);
};

const planks = computed(() =>
  poles.value.planks.map((step) => {
    const failed = step.id === bench.attempt?.failure?.step;
    const kind = failed ? 'failed' : step.kind === 'wait' ? 'wait' : step.data.action === 'read' ? 'read' : 'act';
    return { step, kind, top: scale.value.y(step.at), end: scale.value.y(endOf(step)), height: 34 };
  }),
);
const under = (step: (typeof planks.value)[number]['step']): string => {
  const { data } = step;
  if (step.kind === 'wait')
    return `${data.polls} tries in ${duration(endOf(step) - step.at)}, saw ${shorten(String(data.result ?? ''), 18)}`;
  if (data.error) return data.error.code;
  if (data.locator) return locatorText(data.locator);
  return data.action === 'open' ? (data.input ?? '') : data.command;
};
const polls = computed(() => {
  const list = poles.value.polls;
  const tops = list.map((poll) => scale.value.y(poll.at));
  let free = -Infinity;
  return list.map((poll, i) => {
    const next = list[i + 1];
    const telling =
      poll.data.ok ||
      !next ||
      next.data.wait !== poll.data.wait ||
      next.data.saw !== poll.data.saw ||
      list[i - 1]?.data.wait !== poll.data.wait;
    const show = telling && tops[i]! >= free;
    if (show) free = tops[i]! + 14;
    return { poll, top: tops[i]!, show, last: next?.data.wait === poll.data.wait ? tops[i + 1]! : undefined };
  });
});
const requests = computed(() => requestBars(poles.value.network, scale.value, column('network')));
const lines = computed(() => lifelineDrawing(poles.value, scale.value, column('element')));
const hiddenLines = computed(() => Math.max(0, poles.value.lifelines.length - linesThatFit(column('element'))));
const consoleLines = computed(() => {
  let free = -Infinity;
  return poles.value.console.map((line) => {
    const top = scale.value.y(line.at);
    const show = top >= free;
    if (show) free = top + 16;
    return { line, top, show };
  });
});
const pictures = computed(() => {
  let free = -Infinity;
  const box = column('screen').width - 12;
  return poles.value.screens.flatMap((screen) => {
    const top = scale.value.y(screen.at);
    const tall = Math.min(64, (box * screen.data.height) / Math.max(1, screen.data.width));
    if (top < free) return [];
    free = top + tall + 4;
    return [{ screen, top, height: tall }];
  });
});
const ticks = computed(() => {
  const list: { at: number; top: number }[] = [];
  const end = scrollTop.value + height.value + margin;
  let free = -Infinity;
  for (const mark of [...planks.value.map((p) => p.step.at), ...poles.value.network.map((n) => n.at)].sort(
    (a, b) => a - b,
  )) {
    const top = scale.value.y(mark);
    if (top > end) break;
    if (top < free) continue;
    free = top + 30;
    if (top > scrollTop.value - margin) list.push({ at: mark, top });
  }
  return list;
});
const folds = computed(() => scale.value.folds.map((fold) => ({ ...fold, top: fold.top + pad })));
const foldPath = (w: number): string => {
  const points = Array.from({ length: Math.ceil(w / 60) + 1 }, (_, i) => `${i * 60},${i % 2 ? 14 : 4}`);
  const back = points.map((_, i) => `${(points.length - 1 - i) * 60},${(points.length - 1 - i) % 2 ? 36 : 26}`);
  return [...points, ...back].join(' ');
};
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
  const x: Record<string, number> = {
    step: column('step').left,
    poll: column('wait').left,
    element: column('element').left + 6,
    network: column('network').left + 6,
    console: column('console').left,
    screen: column('screen').left,
    note: column('step').left,
  };
  return [...bench.evidence].flatMap((id) => {
    const event = bench.byId.get(id);
    const left = event && x[event.lane];
    return event && left !== undefined
      ? [{ id, left, top: scale.value.y(event.at) + (event.lane === 'step' ? 17 : 3) }]
      : [];
  });
});
const isEvidence = (id: string): boolean => bench.evidence.has(id);

function pointerLevel(event: PointerEvent): void {
  if (event.buttons !== 1 || (event.target as HTMLElement).closest('button')) return;
  const box = view.value!.getBoundingClientRect();
  bench.level = Math.max(
    0,
    Math.min(poles.value.until, scale.value.at(event.clientY - box.top + view.value!.scrollTop)),
  );
}
function reveal(): void {
  const el = view.value;
  if (!el || height.value === 0) return;
  const top = levelTop.value;
  if (top < el.scrollTop + 60 || top > el.scrollTop + height.value - 90)
    el.scrollTop = Math.max(0, top - height.value * 0.55);
}
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
      <span v-for="one in columns" :key="one.key" :style="{ left: `${one.left}px`, width: `${one.width}px` }"
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
        :style="{ top: `${scrollTop}px`, height: `${height}px` }"
        :from="scale.at(scrollTop)"
        :until="scale.at(scrollTop + height)"
      />
      <div class="sheet" :style="{ height: `${whole}px` }">
        <i v-for="one in columns" :key="one.key" class="pole" :style="{ left: `${one.left - 4}px` }" />
        <div
          v-for="fold in inSight(folds)"
          :key="fold.from"
          class="fold"
          :style="{ top: `${fold.top}px`, left: `${gutter.mini + gutter.pennant}px` }"
        >
          <svg height="40" :width="width" aria-hidden="true">
            <polygon :points="foldPath(width)" fill="var(--fold)" />
          </svg>
          <span class="soft" :style="{ left: `${column('step').left - gutter.mini - gutter.pennant}px` }"
            >quiet for {{ duration(fold.until - fold.from) }}, folded</span
          >
        </div>
        <span
          v-for="tick in ticks"
          :key="tick.at"
          class="tick mono"
          :style="{ top: `${tick.top}px`, left: `${gutter.mini + gutter.pennant}px`, width: `${gutter.time - 8}px` }"
          >{{ (tick.at / 1000).toFixed(2) }} s</span
        >

        <div
          v-for="p in inSight(planks)"
          :key="p.step.id"
          class="plank"
          :class="[p.kind, { evidence: isEvidence(p.step.id) }]"
          :style="{ top: `${p.top}px`, left: `${column('step').left + 2}px`, width: `${column('step').width - 10}px` }"
          :title="`${p.step.data.label}\n${under(p.step)}`"
          @click="bench.level = p.step.at"
        >
          <b class="one-line">{{ p.step.data.label }}</b>
          <small class="mono one-line">{{ under(p.step) }}</small>
        </div>
        <i
          v-for="p in inSight(planks)"
          :key="`r${p.step.id}`"
          class="reach"
          :class="p.kind"
          :style="{
            top: `${p.top}px`,
            height: `${Math.max(3, p.end - p.top)}px`,
            left: `${column('step').left - 6}px`,
          }"
        />

        <template v-for="p in inSight(polls)" :key="p.poll.id">
          <i
            v-if="p.last"
            class="string"
            :style="{ top: `${p.top + 4}px`, height: `${p.last - p.top}px`, left: `${column('wait').left + 9}px` }"
          />
          <i
            class="poll"
            :class="{ met: p.poll.data.ok, evidence: isEvidence(p.poll.id) }"
            :style="{ top: `${p.top}px`, left: `${column('wait').left + 5}px` }"
            :title="`saw ${p.poll.data.saw} at ${seconds(p.poll.at)}`"
          />
          <span
            v-if="p.show"
            class="saw mono one-line"
            :class="{ sea: p.poll.data.ok }"
            :style="{
              top: `${p.top - 4}px`,
              left: `${column('wait').left + 19}px`,
              width: `${column('wait').width - 25}px`,
            }"
            >“{{ p.poll.data.saw }}”</span
          >
        </template>
        <span
          v-for="pause in inSight(
            poles.pauses.map((e) => ({
              e,
              top: scale.y(e.at),
              height: Math.max(14, scale.y(endOf(e)) - scale.y(e.at)),
            })),
          )"
          :key="pause.e.id"
          class="pause"
          :style="{
            top: `${pause.top}px`,
            height: `${pause.height}px`,
            left: `${column('wait').left + 5}px`,
            width: `${column('wait').width - 14}px`,
          }"
          :title="pause.e.data.label"
          ><span>{{ duration(endOf(pause.e) - pause.e.at) }} sleep</span></span
        >

        <i
          v-for="s in inSight(lines.segments)"
          :key="s.id"
          class="life"
          :class="[
            s.presence,
            s.generation % 2 ? 'other' : 'first',
            { replaced: s.replaced, evidence: isEvidence(s.id) },
          ]"
          :style="{ top: `${s.top}px`, height: `${s.height}px`, left: `${s.left}px` }"
        />
        <span
          v-for="(label, i) in inSight(lines.labels)"
          :key="i"
          class="life-label"
          :class="label.kind"
          :style="{ top: `${label.top}px`, left: `${label.left}px`, maxHeight: `${label.height}px` }"
          >{{ label.text }}</span
        >

        <template v-for="bar in inSight(requests)" :key="bar.id">
          <i
            class="request"
            :class="[bar.kind, { evidence: isEvidence(bar.id) }]"
            :style="{ top: `${bar.top}px`, height: `${bar.height}px`, left: `${bar.left}px` }"
            :title="bar.label"
          />
          <span
            v-if="bar.showLabel"
            class="request-label mono one-line"
            :style="{
              top: `${bar.top - 2}px`,
              left: `${bar.left + 11}px`,
              maxWidth: `${column('network').left + column('network').width - bar.left - 16}px`,
            }"
            >{{ bar.label }}</span
          >
        </template>

        <template v-for="c in inSight(consoleLines)" :key="c.line.id">
          <i
            class="level-mark"
            :class="[c.line.data.level, { evidence: isEvidence(c.line.id) }]"
            :style="{ top: `${c.top}px`, left: `${column('console').left + 2}px` }"
          />
          <span
            v-if="c.show"
            class="console mono one-line"
            :class="c.line.data.level"
            :style="{
              top: `${c.top - 3}px`,
              left: `${column('console').left + 9}px`,
              width: `${column('console').width - 16}px`,
            }"
            :title="c.line.data.text"
            >{{ c.line.data.text }}</span
          >
        </template>

        <img
          v-for="p in inSight(pictures)"
          :key="p.screen.id"
          class="thumb"
          :class="{ evidence: isEvidence(p.screen.id), told: p.screen.kind === 'screenshot' }"
          :src="`/api/blobs/${p.screen.data.blob}`"
          alt=""
          loading="lazy"
          :style="{
            top: `${p.top}px`,
            height: `${p.height}px`,
            left: `${column('screen').left + 2}px`,
            width: `${column('screen').width - 12}px`,
          }"
          @click="bench.level = p.screen.at"
        />

        <svg
          v-if="brackets.length && bench.clue !== null"
          class="brackets"
          :height="whole"
          :width="width"
          aria-hidden="true"
        >
          <path
            v-for="b in brackets"
            :key="b.id"
            :d="`M ${gutter.mini + 22} ${pennants[bench.clue]!.top + 9} H ${gutter.mini + gutter.pennant + 6} V ${b.top} H ${b.left}`"
          />
          <circle v-for="b in brackets" :key="`c${b.id}`" :cx="b.left" :cy="b.top" r="3.2" />
        </svg>
        <button
          v-for="p in pennants"
          :key="p.i"
          class="pennant moves"
          :class="{ on: bench.clue === p.i }"
          :style="{ top: `${p.top}px`, left: `${gutter.mini}px` }"
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
          :aria-valuemax="Math.round(poles.until)"
          :aria-valuenow="Math.round(bench.level)"
          :aria-valuetext="levelWords"
          :style="{ top: `${levelTop}px` }"
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
  cursor: default;
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
.sheet > * {
  position: absolute;
}
.pole {
  top: 0;
  bottom: 0;
  width: 2px;
  background: var(--steel);
  opacity: 0.55;
}
.fold {
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
  text-align: right;
  color: var(--soft);
  transform: translateY(-7px);
  font-size: 11px;
}
.plank {
  min-height: 34px;
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
.evidence {
  outline: 1.5px solid var(--ink);
  outline-offset: 1px;
  z-index: 2;
}
.reach {
  width: 4px;
  background: var(--timber);
  opacity: 0.8;
}
.reach.wait,
.reach.read {
  background: var(--sea);
}
.reach.failed {
  background: var(--brick);
}
.string {
  width: 1px;
  background: var(--steel);
}
.poll {
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
  font-size: 10.5px;
}
.pause {
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
.life {
  width: 9px;
}
.life.visible {
  background: var(--sea);
}
.life.visible.other {
  background: var(--violet);
}
.life.absent {
  width: 0;
  margin-left: 4px;
  border-left: 2px dotted var(--steel);
}
.life.hidden,
.life.disabled {
  border: 1.5px solid var(--sea);
  background: var(--paper);
}
.life.hidden.other,
.life.disabled.other {
  border-color: var(--violet);
}
.life.covered {
  border: 1.5px solid var(--brick);
  background: repeating-linear-gradient(45deg, var(--brick) 0 2px, var(--brick-pale) 2px 5px);
}
.life.replaced {
  border-top: 3px solid var(--ink);
}
.life-label {
  writing-mode: vertical-rl;
  font-size: 10.5px;
  line-height: 13px;
  color: var(--soft);
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
.life-label.replaced {
  color: var(--violet);
  font-weight: 600;
}
.life-label.removed,
.life-label.covered {
  color: var(--brick);
  font-weight: 600;
}
.request {
  width: 8px;
  background: var(--steel-deep);
}
.request.own {
  background: var(--timber);
}
.request.outside {
  background: none;
  border: 2px solid var(--steel-deep);
}
.request.failed {
  background: var(--brick);
}
.request-label {
  font-size: 10.5px;
  color: var(--soft);
  line-height: 15px;
}
.level-mark {
  width: 3px;
  height: 11px;
  background: var(--steel-deep);
}
.level-mark.error {
  background: var(--brick);
}
.level-mark.warning {
  background: var(--amber);
}
.console {
  font-size: 11px;
  line-height: 16px;
}
.console.error {
  color: var(--brick-text);
}
.console.warning {
  color: var(--amber-text);
}
.thumb {
  border: 1px solid var(--line);
  background: var(--paper);
  object-fit: cover;
  object-position: top;
  cursor: pointer;
}
.thumb.told {
  border-color: var(--sea);
}
.brackets {
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
