<script setup lang="ts">
import { computed } from 'vue';
import { endOf } from '../../core/evidence/event.ts';
import { useBench } from '../stores/bench.ts';

/** The whole attempt in true time at the left edge: steps, failure, level, and the part in sight. */
const props = defineProps<{ from: number; until: number }>();
const bench = useBench();
const share = (at: number): string => `${(Math.min(1, at / Math.max(1, bench.poles.until)) * 100).toFixed(3)}%`;
const marks = computed(() =>
  bench.poles.planks.map((step) => ({
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
function jump(event: MouseEvent): void {
  const box = (event.currentTarget as HTMLElement).getBoundingClientRect();
  bench.level = ((event.clientY - box.top) / box.height) * bench.poles.until;
}
</script>

<template>
  <div class="miniature" aria-hidden="true" @click.stop="jump" @pointerdown.stop>
    <i v-for="mark in marks" :key="mark.id" :class="mark.kind" :style="{ top: mark.top, height: mark.height }" />
    <b :style="{ top: share(props.from), height: share(props.until - props.from) }" />
    <u :style="{ top: share(bench.level) }" />
  </div>
</template>

<style scoped>
.miniature {
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
