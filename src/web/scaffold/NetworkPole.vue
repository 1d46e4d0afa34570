<script setup lang="ts">
import { computed } from 'vue';
import { useBench } from '../stores/bench.ts';
import { requestBars } from './drawing.ts';
import { px, useRoom } from './room.ts';

/**
 * Requests in flight as bars beside each other: hatched while they wait for the first byte, filled
 * while the answer comes; own hosts left, outside hosts hollow and right, failures brick. A thin line
 * ties a request to the answer whose script asked for it.
 */
const bench = useBench();
const { scale, column, inSight, isEvidence } = useRoom();
const drawing = computed(() => requestBars(bench.poles.network, scale.value, column('network')));
const inFlight = computed(() => new Set(bench.now.inFlight.map(({ id }) => id)));
const ties = computed(() => inSight(drawing.value.ties).filter(({ to }) => inFlight.value.has(to) || isEvidence(to)));
</script>

<template>
  <div>
    <i v-if="drawing.divide" class="divide" :style="{ left: px(drawing.divide) }" />
    <svg v-if="ties.length" class="ties" :height="scale.height" width="3000" aria-hidden="true">
      <path v-for="tie in ties" :key="tie.to" :d="tie.path" />
    </svg>
    <template v-for="bar in inSight(drawing.bars)" :key="bar.id">
      <i
        class="request"
        :class="[bar.kind, { evidence: isEvidence(bar.id), now: inFlight.has(bar.id) }]"
        :style="{ top: px(bar.top), height: px(bar.height), left: px(bar.left) }"
        :title="bar.label"
        @click="bench.level = bar.at"
        ><i v-if="bar.waiting > 3" class="waiting" :style="{ height: px(bar.waiting) }"
      /></i>
      <span
        v-if="bar.showLabel"
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
.request {
  position: absolute;
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
  position: absolute;
  font-size: 10.5px;
  color: var(--soft);
  line-height: 15px;
}
.request.now {
  box-shadow: 0 0 0 1.4px var(--ink);
}
.waiting {
  position: absolute;
  inset: 0 0 auto 0;
  background: repeating-linear-gradient(135deg, var(--ground) 0 2px, transparent 2px 4px);
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
