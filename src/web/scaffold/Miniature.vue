<script setup lang="ts">
import { computed, ref } from 'vue';
import { endOf } from '../../core/evidence/event.ts';
import type { ElasticScale } from '../../core/scaffold/elastic.ts';
import { useBench } from '../stores/bench.ts';

/** The whole attempt in true time at the left edge: steps, failure, level, and the part in sight. */
const props = defineProps<{ scale: ElasticScale; room: number }>();
const bench = useBench();
const share = (at: number): string => `${(Math.min(1, at / Math.max(1, bench.poles.until)) * 100).toFixed(3)}%`;
const marks = computed(() =>
  bench.poles.planks.slice(0, 1000).map((step) => ({
    id: step.id,
    top: share(step.at),
    height: share(endOf(step) - step.at),
    kind:
      step.id === bench.attempt?.failure?.step
        ? 'failed'
        : step.kind === 'wait' || step.data.action === 'read'
          ? 'asks'
          : 'acts',
  })),
);
const frame = ref<HTMLElement>();
/** The frame of what is in sight follows every scroll; set by hand so that a scroll costs no drawing of the rest. */
function place(scrollTop: number): void {
  if (!frame.value) return;
  const from = props.scale.at(scrollTop);
  const until = props.scale.at(scrollTop + props.room);
  frame.value.style.top = share(from);
  frame.value.style.height = share(until - from);
}
defineExpose({ place });
function jump(event: MouseEvent): void {
  const box = (event.currentTarget as HTMLElement).getBoundingClientRect();
  bench.level = Math.max(0, ((event.clientY - box.top) / box.height) * bench.poles.until);
}
</script>

<template>
  <div class="miniature" aria-hidden="true" @click.stop="jump" @pointerdown.stop>
    <i v-for="mark in marks" :key="mark.id" :class="mark.kind" :style="{ top: mark.top, height: mark.height }" />
    <s
      v-if="bench.range"
      :style="{ top: share(bench.range.from), height: share(bench.range.until - bench.range.from) }"
    />
    <b ref="frame" />
    <u :style="{ top: share(bench.level) }" />
  </div>
</template>

<style scoped>
.miniature {
  contain: strict;
  width: 24px;
  background: var(--fold);
  cursor: pointer;
  overflow: hidden;
}
.miniature > * {
  position: absolute;
}
i {
  left: 5px;
  right: 5px;
  min-height: 2px;
  background: var(--timber);
}
i.asks {
  background: var(--steel);
}
i.failed {
  background: var(--brick);
  min-height: 4px;
}
s {
  left: 0;
  width: 3px;
  background: var(--sea);
}
b {
  left: 1px;
  right: 1px;
  min-height: 10px;
  border: 1.2px solid var(--ink);
  border-radius: 3px;
}
u {
  left: 0;
  right: 0;
  border-top: 1.6px solid var(--ink);
}
</style>
