<script setup lang="ts">
import { computed } from 'vue';
import { useBench } from '../stores/bench.ts';
import { requestBars } from './drawing.ts';
import PoleCanvas from './PoleCanvas.vue';
import { px, useRoom } from './room.ts';
import type { Shape } from './shapes.ts';

/**
 * Requests in flight as bars beside each other: hatched while they wait for the first byte, filled
 * while the answer comes; own hosts left, outside hosts hollow and right, failures brick. A thin line
 * ties a request to the answer whose script asked for it.
 */
const bench = useBench();
const { scale, column, inSight, isEvidence, words, crowded } = useRoom();
const drawing = computed(() =>
  requestBars(crowded('network') ? [] : bench.poles.network, scale.value, column('network')),
);
const place = computed(() => column('network'));
const shapes = computed(() =>
  drawing.value.bars.map((bar): Shape => ({
    left: bar.left,
    top: bar.top,
    width: 8,
    height: bar.height,
    look: bar.kind === 'outside' ? 'hollow' : 'fill',
    tone: bar.kind === 'failed' ? 'brick' : bar.kind === 'own' ? 'timber' : 'steel-deep',
    waiting: bar.waiting,
    evidence: isEvidence(bar.id),
  })),
);
/** Those in flight at the level, marked where the level crosses them. */
const crossed = computed(() => {
  const flying = inFlight.value;
  return drawing.value.bars.filter((bar) => flying.has(bar.id));
});
const inFlight = computed(() => new Set(bench.now.inFlight.map(({ id }) => id)));
const ties = computed(() => inSight(drawing.value.ties).filter(({ to }) => inFlight.value.has(to) || isEvidence(to)));
const labelled = computed(() => drawing.value.bars.filter((bar) => bar.showLabel));
</script>

<template>
  <div>
    <i v-if="drawing.divide" class="divide" :style="{ left: px(drawing.divide) }" />
    <svg v-if="ties.length" class="ties" :height="scale.height" width="3000" aria-hidden="true">
      <path v-for="tie in ties" :key="tie.to" :d="tie.path" />
    </svg>
    <PoleCanvas :shapes="shapes" :left="place.left" :width="place.width - 5" />
    <i
      v-for="bar in crossed"
      :key="`now ${bar.id}`"
      class="now"
      :style="{ top: px(bar.top), height: px(bar.height), left: px(bar.left) }"
    />
    <template v-for="bar in words(labelled)" :key="bar.id">
      <span
        class="request-label mono one-line label"
        :style="{ top: px(bar.top - 2), left: px(bar.left + 11), maxWidth: px(bar.width) }"
        :title="bar.label"
        @click="bench.level = bar.at"
        >{{ bar.label }}</span
      >
    </template>
  </div>
</template>

<style scoped>
.request-label {
  position: absolute;
  font-size: 10.5px;
  color: var(--soft);
  line-height: 15px;
}
.now {
  position: absolute;
  width: 8px;
  box-shadow: 0 0 0 1.4px var(--ink);
  pointer-events: none;
}
.divide {
  position: absolute;
  top: 0;
  bottom: 0;
  border-left: 1px dotted var(--steel);
}
.ties {
  position: absolute;
  inset: 0;
  pointer-events: none;
}
.ties path {
  fill: none;
  stroke: var(--steel-deep);
  stroke-width: 1;
}
.request-label {
  cursor: pointer;
}
</style>
