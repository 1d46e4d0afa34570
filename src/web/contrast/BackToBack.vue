<script setup lang="ts">
import { useElementSize } from '@vueuse/core';
import { computed, nextTick, ref, watch } from 'vue';
import type { ContrastView, SideView } from '../../core/contrast/view.ts';
import { shorten } from '../../core/evidence/labels.ts';
import { px } from '../scaffold/room.ts';
import { duration } from '../words.ts';
import { backToBack, boardHeight } from './back-to-back.ts';

/** A failing and a passing attempt back to back around a spine: the same steps tied by rungs, the split across both. */
const props = defineProps<{ view: ContrastView; chosen: number }>();
const emit = defineEmits<{ open: [attempt: string, at: number] }>();
const box = ref<HTMLElement>();
const { width } = useElementSize(box);
const layout = computed(() => backToBack(props.view));
/** Columns from the outside to the spine: console, network, steps; the spine between the two sides. */
const columns = computed(() => {
  const all = Math.max(760, width.value);
  const spine = Math.round(all * 0.13);
  const side = (all - spine) / 2;
  const line = Math.round(side * 0.22);
  const net = Math.round(side * 0.26);
  const board = side - line - net - 12;
  return {
    all,
    left: { lines: 8, net: line + 8, boards: line + net + 8 },
    right: { boards: side + spine + 4, net: side + spine + board + 12, lines: side + spine + board + net + 12 },
    spine: { from: side - 4, until: side + spine + 4 },
    board,
    line: line - 10,
    net: net - 8,
  };
});
const sides = computed(() => [
  {
    name: 'left' as const,
    side: props.view.left,
    boards: layout.value.left,
    y: layout.value.y.left,
    at: columns.value.left,
  },
  ...(props.view.right
    ? [
        {
          name: 'right' as const,
          side: props.view.right,
          boards: layout.value.right,
          y: layout.value.y.right,
          at: columns.value.right,
        },
      ]
    : []),
]);
/** Requests as bars beside each other; the names of those that would touch give way. */
function bars(
  side: SideView,
  y: (at: number) => number,
): {
  top: number;
  height: number;
  lane: number;
  words: string;
  show: boolean;
  bad: boolean;
  event: string;
  at: number;
}[] {
  const ends: number[] = [];
  let free = -Infinity;
  return side.requests.map((one) => {
    const top = y(one.at);
    const foot = Math.max(top + 4, y(one.until));
    let lane = ends.findIndex((end) => end <= top);
    if (lane < 0) lane = ends.length < 4 ? ends.length : 3;
    ends[lane] = foot + 2;
    const show = top >= free;
    if (show) free = top + 15;
    const name = one.key.replace(/^GET /, '');
    return {
      top,
      height: foot - top,
      lane,
      words: `${duration(one.until - one.at)} ${name}`,
      show,
      bad: one.ended !== '2xx' && one.ended !== '3xx',
      event: one.event,
      at: one.at,
    };
  });
}
function lines(
  side: SideView,
  y: (at: number) => number,
): { top: number; words: string; level: string; event: string }[] {
  let free = -Infinity;
  return side.lines.flatMap((one) => {
    const top = y(one.at);
    if (top < free) return [];
    free = top + 15;
    return [{ top, words: one.text, level: one.level, event: one.event }];
  });
}
const picked = computed(() => props.view.differences[props.chosen]);
const marked = computed(
  () => new Set(picked.value?.shown.flatMap((one) => (one ? [`${one.attempt} ${one.event}`] : [])) ?? []),
);
const isMarked = (side: SideView, event: string, slot?: number): boolean =>
  marked.value.has(`${side.id} ${event}`) || (slot !== undefined && slot === picked.value?.slot);
watch(
  [() => props.chosen, layout],
  () =>
    void nextTick(() => {
      const slot = picked.value?.slot ?? -1;
      const board = [...layout.value.left, ...layout.value.right].find((one) => one.slot === slot);
      if (board && box.value) box.value.scrollTo({ top: Math.max(0, board.top - box.value.clientHeight / 2) });
    }),
  { immediate: true },
);
const nth = computed(() =>
  props.view.passing.length > 1 ? `the middle of ${props.view.passing.length}` : 'the only one',
);
</script>

<template>
  <div class="both">
    <div class="heads soft">
      <span :style="{ left: px(columns.left.lines) }">Console</span>
      <span :style="{ left: px(columns.left.net) }">Network</span>
      <b class="brick" :style="{ left: px(columns.left.boards) }">Failing</b>
      <template v-if="view.right">
        <b class="sea" :style="{ left: px(columns.right.boards) }">Passing · {{ nth }}</b>
        <span :style="{ left: px(columns.right.net) }">Network</span>
        <span :style="{ left: px(columns.right.lines) }">Console</span>
      </template>
    </div>
    <div ref="box" class="view" tabindex="0" role="group" aria-label="Failing and passing attempt, back to back">
      <div class="sheet" :style="{ height: px(layout.height) }">
        <i
          v-for="left in [
            columns.left.net - 4,
            columns.left.boards - 4,
            columns.spine.from,
            columns.spine.until,
            columns.right.net - 6,
            columns.right.lines - 6,
          ]"
          :key="left"
          class="pole"
          :style="{ left: px(left) }"
        />
        <svg class="rungs" :width="columns.all" :height="layout.height" aria-hidden="true">
          <path
            v-for="rung in layout.rungs"
            :key="rung.slot"
            :class="{ late: rung.words, picked: rung.slot === picked?.slot }"
            :d="`M ${columns.spine.from} ${rung.left} L ${columns.spine.until} ${rung.right}`"
          />
        </svg>
        <span
          v-for="rung in layout.rungs.filter((one) => one.words)"
          :key="`w${rung.slot}`"
          class="lag"
          :style="{
            top: px(rung.wordsTop),
            left: px((columns.spine.from + columns.spine.until) / 2),
          }"
          >{{ rung.words }}</span
        >
        <template v-for="one in sides" :key="one.name">
          <button
            v-for="board in one.boards"
            :key="board.slot"
            class="board"
            :class="[
              one.name,
              { failed: one.name === 'left' && board.failed, marked: isMarked(one.side, board.event, board.slot) },
            ]"
            :style="{ top: px(board.top), left: px(one.at.boards), width: px(columns.board), height: px(boardHeight) }"
            :title="`${board.label}${board.under ? `\n${board.under}` : ''}`"
            @click="emit('open', one.side.id, view.slots[board.slot]![one.name]!.at)"
          >
            <span class="one-line">{{ board.label }}</span>
          </button>
          <template v-for="bar in bars(one.side, one.y)" :key="bar.event">
            <i
              class="bar"
              :class="{ bad: bar.bad, marked: isMarked(one.side, bar.event) }"
              :style="{ top: px(bar.top), height: px(bar.height), left: px(one.at.net + bar.lane * 9) }"
              :title="bar.words"
            />
            <span
              v-if="bar.show"
              class="words mono one-line"
              :class="{ brick: bar.bad, chosen: isMarked(one.side, bar.event) }"
              :style="{ top: px(bar.top - 3), left: px(one.at.net + 38), width: px(columns.net - 40) }"
              :title="bar.words"
              >{{ shorten(bar.words, 40) }}</span
            >
          </template>
          <span
            v-for="line in lines(one.side, one.y)"
            :key="line.event"
            class="words mono one-line"
            :class="{ brick: line.level === 'error', chosen: isMarked(one.side, line.event) }"
            :style="{ top: px(line.top), left: px(one.at.lines), width: px(columns.line) }"
            :title="line.words"
            >{{ line.words }}</span
          >
        </template>
        <div v-if="layout.split !== undefined" class="split" :style="{ top: px(layout.split) }">
          <span>they part here</span>
        </div>
      </div>
    </div>
  </div>
</template>

<style scoped>
.both {
  display: grid;
  grid-template-rows: 26px minmax(0, 1fr);
  min-height: 0;
  background: var(--ground);
}
.heads {
  position: relative;
  border-bottom: 1px solid var(--line);
  font-size: 12px;
  font-weight: 600;
}
.heads > * {
  position: absolute;
  top: 5px;
  white-space: nowrap;
}
.brick {
  color: var(--brick-text);
}
.sea {
  color: var(--sea);
}
.view {
  overflow: hidden auto;
  outline-offset: -2px;
}
.sheet {
  position: relative;
  min-height: 100%;
  overflow: hidden;
}
.pole {
  position: absolute;
  top: 0;
  bottom: 0;
  width: 1.5px;
  background: var(--steel);
  opacity: 0.5;
}
.rungs {
  position: absolute;
  inset: 0;
}
.rungs path {
  stroke: var(--steel);
  stroke-width: 1.5;
  fill: none;
}
.rungs path.late {
  stroke: var(--amber);
  stroke-width: 2;
}
.rungs path.picked {
  stroke: var(--brick);
  stroke-width: 2.6;
}
.lag {
  position: absolute;
  transform: translateX(-50%);
  font-size: 11px;
  font-weight: 600;
  color: var(--amber-text);
  background: var(--ground);
  padding: 0 4px;
  z-index: 1;
}
.board {
  position: absolute;
  border: 0;
  border-radius: 0;
  background: var(--timber-pale);
  color: var(--ink);
  font: 600 12px var(--sans);
  text-align: left;
  padding: 0 8px;
  cursor: pointer;
  overflow: hidden;
}
.board span {
  display: block;
}
.board.left {
  border-left: 4px solid var(--timber);
}
.board.right {
  border-right: 4px solid var(--timber);
}
.board.failed {
  background: var(--brick-pale);
  border-left-color: var(--brick);
}
.board.marked,
.bar.marked {
  outline: 1.5px solid var(--ink);
  outline-offset: 1px;
  z-index: 2;
}
.bar {
  position: absolute;
  width: 7px;
  background: var(--steel);
}
.bar.bad {
  background: var(--brick);
}
.words {
  position: absolute;
  font-size: 10.5px;
  line-height: 15px;
  color: var(--soft);
}
.words.chosen {
  color: var(--ink);
  font-weight: 600;
}
.words.brick {
  color: var(--brick-text);
}
.split {
  position: absolute;
  left: 0;
  right: 0;
  height: 0;
  border-top: 2px solid var(--brick);
  pointer-events: none;
  z-index: 3;
}
.split span {
  position: absolute;
  left: 50%;
  top: -10px;
  transform: translateX(-50%);
  background: var(--brick);
  color: #fff;
  font-size: 11px;
  font-weight: 600;
  padding: 2px 12px;
  border-radius: 3px;
  white-space: nowrap;
}
@media (prefers-color-scheme: dark) {
  .split span {
    color: #141d1f;
  }
}
</style>
